<script lang="ts">
  import Reset from 'carbon-icons-svelte/lib/Reset.svelte';
  import { modelOf } from '$core/colour';
  import { labUnit, rowOf, rowSentence, rowTotal, type MixParams, type MixRow } from '$core/ops/mix';
  import { swatch } from '../channel-colour';
  import { told } from '../numbers';
  import Amount from './Amount.svelte';

  interface Props {
    params: MixParams;
    /** Letter of the output. */
    out: string;
    /** Sets one weight of the row, in parts of 1. */
    onset: (input: string, value: number) => void;
    onreset: () => void;
    onend: () => void;
  }
  let { params, out, onset, onreset, onend }: Props = $props();

  const inputs = $derived(modelOf(params.model).channels);
  const output = $derived(inputs.find((c) => c.letter === out)!);
  /** A name of several words has no room beside the total. */
  const heading = $derived(
    output.sign === output.name || output.name.includes(' ') ? output.sign : `${output.sign} · ${output.name}`
  );
  const row = $derived<MixRow>(rowOf(params, out));
  const total = $derived(rowTotal(row));
  const sentence = $derived(rowSentence(params, out));
  const changed = $derived(Object.entries(row).some(([input, w]) => w !== (input === out ? 1 : 0)));
  /** What a total means: it is no fault to have another than 100. */
  const meaning = $derived(
    params.model === 'lab' || Math.abs(total - 1) <= 0.0005
      ? undefined
      : `A total ${total > 1 ? 'over' : 'under'} 100 %: greys get ${total > 1 ? 'more' : 'less'} of it than they had`
  );
  const inLab = $derived(params.model === 'lab');
  /** One of the constant in the unit that it is shown in: per cent, or LAB's own. */
  const unit = $derived(inLab ? labUnit(out) : 100);
</script>

<section class="row" aria-label={`${output.name} gets`}>
  <header>
    <span class="dot" style:background={swatch(output.id)}></span>
    <h3 title={output.name}>{heading} gets</h3>
    <span class="total mono" title={meaning}>
      total {told(total * 100, Number.isInteger(Math.round(total * 1e4) / 100) ? 0 : 1)} %
    </span>
    <button
      class="tool"
      title="Reset this row"
      aria-label={`Reset ${output.name}`}
      disabled={!changed}
      onclick={onreset}
    >
      <Reset size={16} />
    </button>
  </header>
  {#each inputs as input (input.id)}
    <Amount
      least={-1000}
      most={1000}
      label={params.model === 'lab' ? input.sign : input.name}
      name={`${output.name} gets ${input.name}`}
      value={row[input.letter] * 100}
      neutral={input.letter === out ? 100 : 0}
      colour={swatch(input.id)}
      oninput={(value) => onset(input.letter, value / 100)}
      {onend}
    />
  {/each}
  <Amount
    least={-1000}
    most={1000}
    label="constant"
    name={`${output.name} gets a constant`}
    unit={inLab ? '' : '%'}
    min={inLab ? -100 : -200}
    max={inLab ? 100 : 200}
    value={row['constant'] * unit}
    neutral={0}
    colour="#9a9a9a"
    oninput={(value) => onset('constant', value / unit)}
    {onend}
  />
  <p title={sentence}>{sentence}</p>
</section>

<style>
  .row {
    padding: 1px 12px 5px;
    border-bottom: 1px solid var(--k-line);
  }
  header {
    display: flex;
    align-items: center;
    gap: 8px;
    height: 29px;
  }
  h3 {
    flex: 1;
    margin: 0;
    font-weight: 600;
    font-size: 13px;
  }
  .dot {
    width: 8px;
    height: 8px;
    border-radius: 50%;
  }
  .total {
    display: inline-flex;
    align-items: center;
    gap: 5px;
    font-size: 12px;
    color: var(--k-text-quiet);
  }
  p {
    /* As long as one line holds: a row that grew would move those below under the pointer. */
    overflow: hidden;
    height: 17px;
    margin: 2px 0 0;
    text-overflow: ellipsis;
    white-space: nowrap;
    color: var(--k-text-quiet);
    font-size: 12px;
  }
  /* Where there is room, two lines always. */
  @media (min-height: 900px) {
    p {
      height: 35px;
      white-space: normal;
    }
  }
</style>
