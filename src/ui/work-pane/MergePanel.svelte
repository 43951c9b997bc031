<script lang="ts">
  import { InlineLoading } from 'carbon-components-svelte';
  import type { Shift } from '$core/measure/shift';
  import { reaches, type MergeParams } from '$core/ops/merge';
  import { told } from '../numbers';
  import { pool } from '../services';
  import ReferenceSelect from '../where/ReferenceSelect.svelte';
  import Amount from './Amount.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const params = $derived(step.params as MergeParams);
  const LABELS = { grey: 'grey', r: 'red', g: 'green', b: 'blue' } as const;
  const COLOURS = { grey: '#d0d0d0', r: 'var(--k-red)', g: 'var(--k-green)', b: 'var(--k-blue)' } as const;
  const some = $derived(reaches.some((key) => params.reach[key] > 0));
  const others = $derived(session.document.pictures.length > 1);
  let shift = $state.raw<Shift | null>(null);
  let measuring = $state(false);
  let problem = $state('');
  let picker: HTMLInputElement | undefined = $state();

  function set(label: string, recipe: (params: MergeParams) => void, gesture?: string): void {
    session.changeStep(label, (draft) => recipe(draft.params as MergeParams), gesture);
  }

  async function measure(): Promise<void> {
    if (!params.from) return;
    measuring = true;
    problem = '';
    shift = null;
    try {
      await session.openPicture(params.from.picture);
      const { hash, steps, pins } = session.source(session.active.slice(0, session.before));
      const other = session.sourceOf(params.from.picture, params.from.after);
      if (other) ({ shift } = await pool.run('shift', { frame: hash, steps, pins, other }, { priority: 2 }));
    } catch (error) {
      problem = (error as Error).message;
    } finally {
      measuring = false;
    }
  }

  async function addExposures(): Promise<void> {
    const files = [...(picker?.files ?? [])];
    if (files.length === 0) return;
    problem = await bench.addFrames(files);
    if (picker) picker.value = '';
  }

  const CERTAIN = 8;
  const take = (whole: boolean): void => {
    if (!shift) return;
    const round = (v: number): number => (whole ? Math.round(v) : Math.round(v * 100) / 100);
    const next: [number, number] = [round(shift.x), round(shift.y)];
    set('Correct the shift', (p) => (p.shift = next));
  };
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
  <button class="tool raised wide" onclick={() => picker?.click()}>Add exposures from files …</button>
  <input
    bind:this={picker}
    type="file"
    multiple
    accept=".png,.jpg,.jpeg,.tif,.tiff"
    aria-label="Files of exposures"
    hidden
    onchange={() => void addExposures()}
  />
  <div class="row" role="radiogroup" aria-label="What is taken from it">
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
    <Amount
      label={LABELS[key]}
      name={`Reach of ${LABELS[key]}`}
      value={100 * params.reach[key]}
      neutral={0}
      min={0}
      max={100}
      colour={COLOURS[key]}
      oninput={(v) => set(`Reach of ${LABELS[key]}`, (p) => (p.reach[key] = v / 100), `reach ${key}`)}
      onend={() => session.endGesture()}
    />
  {/each}
  <p class="quiet">
    {#if !params.from}Choose the exposure to take from.
    {:else if !some}Without reach nothing is taken yet.
    {:else}More reach keeps it to the {params.side === 'bright' ? 'brightest' : 'darkest'} tones; several multiply.{/if}
  </p>
  <h3>Shift</h3>
  {#each [['right, px', 'Shift to the right'], ['down, px', 'Shift down']] as [label, name], i (name)}
    <Amount
      {label}
      {name}
      unit=""
      value={params.shift[i]}
      neutral={0}
      min={-20}
      max={20}
      least={-500}
      most={500}
      step={0.25}
      oninput={(v) => set('Shift', (p) => (p.shift[i] = v), `shift ${i}`)}
      onend={() => session.endGesture()}
    />
  {/each}
  {#if measuring}<InlineLoading description="Measuring the shift …" />
  {:else}
    <button class="tool raised wide" disabled={!params.from} onclick={() => void measure()}
      >Measure the shift</button
    >
  {/if}
  {#if shift}
    <p role="status">
      It lies <b class="mono">{told(shift.x, 2, true)}</b> px to the right and
      <b class="mono">{told(shift.y, 2, true)}</b> px down of this one{shift.certainty < CERTAIN
        ? ', but that is not sure: the two share few edges'
        : ''}.
    </p>
    <div class="row">
      <button class="tool raised" onclick={() => take(true)}>Whole pixels</button>
      <button class="tool raised" onclick={() => take(false)}>Parts of pixels</button>
    </div>
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
  .warn {
    color: var(--k-warn);
  }
</style>
