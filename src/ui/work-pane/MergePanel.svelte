<script lang="ts">
  import StepAmount from './StepAmount.svelte';
  import { paramsOf } from '$core/ops/op';
  import { InlineLoading, Toggle } from 'carbon-components-svelte';
  import type { Shift } from '$core/measure/shift';
  import { reaches, type MergeParams, merge as op } from '$core/ops/merge';
  import { isSure, measuredShift, partsOfPixels, wholePixels } from '../bench/shifts';
  import { told } from '../numbers';
  import { IMAGE_FILES } from '../file-kinds';
  import ReferenceSelect from '../where/ReferenceSelect.svelte';
  import FilesButton from './FilesButton.svelte';
  import ShiftAmounts from './ShiftAmounts.svelte';
  import type { PanelProps } from './panels';
  import { arrowGroup } from '../shell/arrow-group';

  let { session, bench, step }: PanelProps = $props();

  const params = $derived(paramsOf(op, step));
  const LABELS = { grey: 'grey', r: 'red', g: 'green', b: 'blue' } as const;
  const COLOURS = { grey: '#d0d0d0', r: 'var(--k-red)', g: 'var(--k-green)', b: 'var(--k-blue)' } as const;
  const some = $derived(reaches.some((key) => params.reach[key] > 0));
  const others = $derived(session.document.pictures.length > 1);
  let shift = $state.raw<Shift | null>(null);
  let measuring = $state(false);
  let whole = $state(false);
  let problem = $state('');

  function set(label: string, recipe: (params: MergeParams) => void, gesture?: string): void {
    session.changeParams(op, label, recipe, gesture);
  }

  async function measure(): Promise<void> {
    measuring = true;
    problem = '';
    shift = null;
    try {
      shift = await measuredShift(session, step);
      if (shift && isSure(shift)) correct();
    } catch (error) {
      problem = (error as Error).message;
    } finally {
      measuring = false;
    }
  }

  /** Moves the other picture back by what was measured. */
  function correct(): void {
    if (!shift) return;
    const by = whole ? wholePixels(shift) : partsOfPixels(shift);
    set('Correct the shift', (p) => (p.shift = by));
  }

  function setWhole(wanted: boolean): void {
    if (wanted === whole) return;
    whole = wanted;
    if (shift) correct();
    else if (whole) set('Whole pixels', (p) => (p.shift = wholePixels({ x: p.shift[0], y: p.shift[1] })));
  }
</script>

<div class="panel">
  <ReferenceSelect
    {session}
    label="Other exposure"
    own={others ? 'choose one' : 'none in this document yet'}
    value={params.from}
    onchange={(from) => {
      shift = null;
      set('Merge another exposure', (p) => (p.from = from));
    }}
  />
  <FilesButton
    title="Add exposures from files …"
    label="Files of exposures"
    accept={IMAGE_FILES}
    onfiles={(files) => bench.addFrames(files)}
  />
  <div class="row" role="radiogroup" {@attach arrowGroup} aria-label="What is taken from it">
    {#each ['bright', 'dark'] as const as side (side)}
      <button
        class="tool raised"
        role="radio"
        aria-checked={params.side === side}
        title={side === 'bright' ? 'Where this picture is bright' : 'Where this picture is dark'}
        onclick={() => set('Merge the other side', (p) => (p.side = side))}
        >{side === 'bright' ? 'Into the lights' : 'Into the shadows'}</button
      >
    {/each}
  </div>
  <h3>Reach</h3>
  {#each reaches as key (key)}
    <StepAmount
      {session}
      {step}
      {op}
      path={['reach', key]}
      label={LABELS[key]}
      name={`Reach of ${LABELS[key]}`}
      colour={COLOURS[key]}
    />
  {/each}
  <p class="quiet">
    {#if !params.from}Choose the exposure to take from.
    {:else if !some}Without reach nothing is taken yet.
    {:else}At 1 % it comes in little by little over all tones, at 100&nbsp;% only in the very
      {params.side === 'bright' ? 'brightest' : 'darkest'}; several multiply.{/if}
  </p>
  <h3>Shift</h3>
  <ShiftAmounts
    shift={params.shift}
    max={20}
    most={500}
    onset={(i, v) => set('Shift', (p) => (p.shift[i] = v), `shift ${i}`)}
    onend={() => session.endGesture()}
  />
  <Toggle
    size="sm"
    hideLabel
    labelText="Whole pixels"
    labelA="Whole pixels: nothing is resampled"
    labelB="Whole pixels: nothing is resampled"
    toggled={whole}
    on:toggle={({ detail }) => setWhole(detail.toggled)}
  />
  {#if measuring}<InlineLoading description="Measuring the shift …" />
  {:else}
    <button class="tool raised wide" disabled={!params.from} onclick={() => void measure()}
      >Measure the shift</button
    >
  {/if}
  {#if shift}
    <p role="status">
      It lies <b class="mono">{told(shift.x, 2, true)}</b> px to the right and
      <b class="mono">{told(shift.y, 2, true)}</b> px down of this one{#if isSure(shift)}; that is corrected{whole
          ? ', rounded to whole pixels'
          : ''}.{:else}, but that is not sure: the two share few edges. Nothing was changed.{/if}
    </p>
    {#if !isSure(shift)}<button class="tool raised wide" onclick={correct}>Correct it all the same</button
      >{/if}
  {/if}
  {#if problem}<p class="warn" role="alert">{problem}</p>{/if}
</div>

<style>
  .row {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 6px;
    margin: 6px 0;
  }
  .wide {
    width: 100%;
    margin-top: 6px;
  }
  h3 {
    margin: 10px 0 4px;
    font-weight: 600;
    font-size: 13px;
  }
  p {
    margin: 6px 0;
    font-size: 12px;
  }
</style>
