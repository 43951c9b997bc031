<script lang="ts">
  import { told, typed } from '../numbers';

  interface Props {
    label: string;
    /** Names the field to screen readers, with its row. */
    name: string;
    /** In %. */
    value: number;
    /** What a double-click on the label goes back to, in %. */
    neutral: number;
    colour: string;
    oninput: (value: number) => void;
    onend: () => void;
  }
  let { label, name, value, neutral, colour, oninput, onend }: Props = $props();

  const RANGE = 200;
  const MOST = 1000;
  let text = $state<string | null>(null);
  let wrong = $state(false);

  const at = (v: number): number => ((Math.min(RANGE, Math.max(-RANGE, v)) + RANGE) / (2 * RANGE)) * 100;
  const track = $derived({ from: Math.min(at(0), at(value)), to: Math.max(at(0), at(value)) });

  function set(next: number): void {
    oninput(Math.round(Math.min(MOST, Math.max(-MOST, next)) * 100) / 100);
  }

  function take(): void {
    if (text === null) return;
    const number = typed(text);
    wrong = number === null;
    if (number === null) return;
    text = null;
    set(number);
    onend();
  }

  function onkeydown(event: KeyboardEvent): void {
    const direction = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    const inField = (event.currentTarget as HTMLInputElement).type === 'text';
    if (event.key === 'Enter') take();
    else if (event.key === 'Escape') {
      text = null;
      wrong = false;
    } else if (direction && !(inField && event.key.match(/Left|Right/))) {
      event.preventDefault();
      set((text === null ? value : (typed(text) ?? value)) + direction * (event.shiftKey ? 10 : 1));
      text = null;
    }
  }
</script>

<div class="weight" role="group" aria-label={name}>
  <button class="label" tabindex="-1" title="Double-click to reset" ondblclick={() => (set(neutral), onend())}
    >{label}</button
  >
  <input
    class="slider"
    type="range"
    min={-RANGE}
    max={RANGE}
    step="1"
    value={Math.min(RANGE, Math.max(-RANGE, value))}
    aria-label={`${name}, slider`}
    aria-valuetext={`${told(value, 0)} %`}
    style:--from="{track.from}%"
    style:--to="{track.to}%"
    style:--colour={colour}
    oninput={(event) => set(event.currentTarget.valueAsNumber)}
    onchange={onend}
    {onkeydown}
  />
  <input
    class="number mono"
    class:wrong
    type="text"
    inputmode="decimal"
    aria-label={`${name} in percent`}
    aria-invalid={wrong}
    title={wrong ? 'Type a number, such as −30 or 12.5' : undefined}
    value={text ?? told(value, Number.isInteger(value) ? 0 : 1)}
    onfocus={(event) => event.currentTarget.select()}
    oninput={(event) => {
      text = event.currentTarget.value;
      wrong = false;
    }}
    onblur={() => {
      take();
      if (wrong) text = null;
      wrong = false;
    }}
    {onkeydown}
  />
</div>

<style>
  .weight {
    display: grid;
    grid-template-columns: 66px 1fr 56px;
    align-items: center;
    gap: 8px;
    height: 25px;
  }
  .label {
    padding: 0;
    border: 0;
    background: none;
    color: #d6d6d6;
    font: inherit;
    text-align: left;
    cursor: default;
  }
  .number {
    width: 100%;
    height: 22px;
    padding: 0 7px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
    font-size: 12.5px;
    text-align: right;
  }
  .number.wrong {
    box-shadow: inset 0 0 0 2px var(--k-warn);
  }
  .slider {
    width: 100%;
    height: 22px;
    margin: 0;
    appearance: none;
    background:
      linear-gradient(#8a8a8a, #8a8a8a) 50% 50% / 1px 11px no-repeat,
      linear-gradient(
          to right,
          transparent var(--from),
          var(--colour) var(--from),
          var(--colour) var(--to),
          transparent var(--to)
        )
        50% 50% / 100% 3px no-repeat,
      linear-gradient(#484848, #484848) 50% 50% / 100% 2px no-repeat;
    cursor: ew-resize;
  }
  .slider::-webkit-slider-thumb {
    width: 12px;
    height: 12px;
    appearance: none;
    border: 0;
    border-radius: 50%;
    background: #ecebe8;
  }
  .slider::-moz-range-thumb {
    width: 12px;
    height: 12px;
    border: 0;
    border-radius: 50%;
    background: #ecebe8;
  }
</style>
