<script lang="ts">
  import { bracketHere } from '../bench/bracket.svelte';
  import { told, toldShort, typed } from '../numbers';

  interface Props {
    label: string;
    /** Names the field to screen readers, with what it belongs to. */
    name: string;
    value: number;
    /** What a double-click on the label goes back to. */
    neutral: number;
    unit?: '%' | 'px' | '°' | '';
    /** Ends of the slider. */
    min?: number;
    max?: number;
    /** What may be typed; the ends of the slider where left out. */
    least?: number;
    most?: number;
    /** What an arrow key moves it by, one of what it shows; with Shift ten times that. */
    step?: number;
    /** What the slider moves by; as an arrow key where left out. */
    grain?: number;
    /** Decimals that are kept. */
    digits?: number;
    /** The slider's way is even in the logarithm: for radii. */
    log?: boolean;
    colour?: string;
    disabled?: boolean;
    oninput: (value: number) => void;
    onend?: () => void;
  }
  let {
    label,
    name,
    value,
    neutral,
    unit = '%',
    min = -200,
    max = 200,
    least = min,
    most = max,
    step = 1,
    grain = step,
    digits = 2,
    log = false,
    colour = 'var(--k-bone-dim)',
    disabled = false,
    oninput,
    onend = () => undefined
  }: Props = $props();

  const UNITS = { '%': 'percent', px: 'pixels', '°': 'degrees', '': '' };
  const TRACK = 1000;
  let text = $state<string | null>(null);
  let wrong = $state(false);
  /** What became of a typed value that was not taken as it stands. */
  let word = $state('');

  /** Place on the track, 0…1, of a value; and back. */
  const low = $derived(log ? Math.log(min + 1) : min);
  const high = $derived(log ? Math.log(max + 1) : max);
  const at = (v: number): number => {
    const inside = Math.min(max, Math.max(min, v));
    return ((log ? Math.log(inside + 1) : inside) - low) / (high - low);
  };
  const valueAt = (part: number): number => {
    const v = low + part * (high - low);
    return log ? Math.exp(v) - 1 : v;
  };
  const origin = $derived(min < 0 && max > 0 ? 0 : min);
  const track = $derived({
    from: 100 * Math.min(at(origin), at(value)),
    to: 100 * Math.max(at(origin), at(value))
  });
  const fieldName = $derived(UNITS[unit] ? `${name} in ${UNITS[unit]}` : name);
  const rounded = $derived(Math.round(value * 10 ** digits) / 10 ** digits);
  const shown = $derived(toldShort(rounded, digits));

  function set(next: number): void {
    const inside = Math.min(most, Math.max(least, next));
    oninput(Math.round(inside * 10 ** digits) / 10 ** digits);
  }

  function slide(part: number): void {
    const next = valueAt(part);
    // Where the slider's own steps are finer than its grain, it moves by whole grains.
    set(log && next > 10 ? Math.round(next) : Math.round(next / grain) * grain);
  }

  const bracket = bracketHere();
  /** A second click within this time, in ms, is one of a double-click. */
  const DOUBLE = 300;
  let clicked = 0;

  function reset(): void {
    clearTimeout(clicked);
    set(neutral);
    onend();
  }

  function tryOut(): void {
    bracket?.try({
      now: () => rounded,
      ...{ name, unit, min, max, least, most, digits, log },
      set: oninput
    });
  }

  const SAID_FOR = 4000;
  let saying = 0;
  function say(what: string): void {
    word = what;
    clearTimeout(saying);
    if (what) saying = window.setTimeout(() => (word = ''), SAID_FOR);
  }

  /** Presses further apart than this are things of their own, to be undone each by itself. */
  const APART = 500;
  let pressed = 0;

  function take(): void {
    if (text === null) return;
    const number = typed(text, value);
    wrong = number === null;
    say(wrong ? 'no number' : '');
    if (number === null) return;
    text = null;
    if (number > most) say(`at most ${told(most, 0)}`);
    else if (number < least) say(`at least ${told(least, 0)}`);
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
      word = '';
      // The keys of the bench are keys again.
      if (inField) (event.currentTarget as HTMLInputElement).blur();
    } else if (direction && !(inField && event.key.match(/Left|Right/))) {
      event.preventDefault();
      clearTimeout(pressed);
      set(
        (text === null ? value : (typed(text, value) ?? value)) + direction * step * (event.shiftKey ? 10 : 1)
      );
      text = null;
    } else if (event.key === 'Backspace' && event.altKey) {
      event.preventDefault();
      text = null;
      reset();
    } else if (event.key.toLowerCase() === 't' && !event.ctrlKey && !event.metaKey && !event.altKey) {
      event.preventDefault();
      event.stopPropagation();
      tryOut();
    }
  }

  function onkeyup(event: KeyboardEvent): void {
    if (!event.key.startsWith('Arrow')) return;
    clearTimeout(pressed);
    pressed = window.setTimeout(onend, APART);
  }
</script>

<div class="amount" class:disabled role="group" aria-label={name}>
  <button
    class="label"
    tabindex="-1"
    title={bracket
      ? 'Try it at several values (T in the number); double-click to reset (Alt Backspace)'
      : 'Double-click to reset; Alt Backspace in the number does it too'}
    {disabled}
    onclick={() => {
      clearTimeout(clicked);
      clicked = window.setTimeout(tryOut, DOUBLE);
    }}
    ondblclick={reset}>{label}</button
  >
  <input
    class="slider"
    type="range"
    min={0}
    max={TRACK}
    step="1"
    value={at(value) * TRACK}
    {disabled}
    aria-label={`${name}, slider`}
    aria-valuetext={`${shown} ${unit}`}
    style:--from="{track.from}%"
    style:--to="{track.to}%"
    style:--origin="{100 * at(origin)}%"
    style:--colour={colour}
    oninput={(event) => slide(event.currentTarget.valueAsNumber / TRACK)}
    onchange={onend}
    {onkeydown}
    {onkeyup}
  />
  <span class="field">
    <input
      class="number mono"
      class:wrong
      type="text"
      inputmode="decimal"
      aria-label={fieldName}
      aria-invalid={wrong}
      {disabled}
      title={wrong ? 'Type a number or a sum, such as −30, 12.5, 10/4, or +5 to add' : undefined}
      value={text ?? shown}
      onfocus={(event) => event.currentTarget.select()}
      oninput={(event) => {
        text = event.currentTarget.value;
        wrong = false;
        word = '';
      }}
      onblur={() => {
        take();
        if (wrong) text = null;
        wrong = false;
      }}
      {onkeydown}
      {onkeyup}
    />
    {#if unit !== '' && unit !== '%'}<i>{unit}</i>{/if}
    {#if word}<span class="word" role="status">{word}</span>{/if}
  </span>
</div>

<style>
  .amount {
    display: grid;
    grid-template-columns: 72px 1fr 58px;
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
  .field {
    position: relative;
    display: block;
  }
  .field i {
    position: absolute;
    top: 3px;
    right: 5px;
    color: var(--k-text-quiet);
    font-size: 11px;
    font-style: normal;
    pointer-events: none;
  }
  .field:has(i) .number {
    padding-right: 21px;
  }
  /* Over what stands below, so that nothing moves. */
  .word {
    position: absolute;
    z-index: 2;
    top: 23px;
    right: 0;
    padding: 2px 6px;
    background: #3a3a3a;
    color: var(--k-warn);
    font-size: 11.5px;
    white-space: nowrap;
  }
  .disabled .label,
  .disabled .number {
    color: #8a8a8a;
  }
  .disabled .slider {
    opacity: 0.45;
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
      linear-gradient(#8a8a8a, #8a8a8a) var(--origin) 50% / 1px 11px no-repeat,
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
