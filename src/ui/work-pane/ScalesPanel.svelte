<script lang="ts">
  import View from 'carbon-icons-svelte/lib/View.svelte';
  import { actsOn, stepOfHouse } from '$core/document';
  import { modelOf } from '$core/colour';
  import { paramsOf } from '$core/ops/op';
  import { MOST_LAYERS } from '$core/spatial/a-trous';
  import { scaleSeen } from '$core/ops/scale-seen';
  import { scales as op, type ScalesParams } from '$core/ops/scales';
  import { told } from '../numbers';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';
  import StepAmount from './StepAmount.svelte';
  import Switch from './Switch.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const solving = solvedNumbers<{ noise: readonly number[] }>(
    () => bench,
    'the noise of the scales',
    () => params.layers.some(({ threshold }) => threshold > 0)
  );
  const noise = $derived(solving.value?.noise ?? []);

  /** The first of the channels that the step acts on: the one that is seen by its scales. */
  const channel = $derived.by(() => {
    const { model, channels } = actsOn(step);
    return modelOf(model).channels.find(({ letter }) => channels.includes(letter))!.id;
  });
  let alone = $state<number | null>(null);
  const count = $derived(params.layers.length);
  $effect(() => {
    bench.inSeen =
      alone === null || alone >= count
        ? null
        : {
            step: stepOfHouse(scaleSeen.id, { channel, layer: alone }),
            title: `What is of ${sizeOf(alone)}`
          };
  });
  $effect(() => () => (bench.inSeen = null));
  // Who chooses another tab of In has seen enough.
  $effect(() => {
    if (bench.inSeen === null) alone = null;
  });

  const sizeOf = (layer: number): string => `${2 ** layer} px`;

  function set(what: string, change: (p: ScalesParams) => void): void {
    session.changeParams(op, `Scales: ${what}`, change);
  }
</script>

<div class="panel stacked">
  <Switch
    label="Compress what is coarse"
    on={params.compress !== null}
    onchange={(on) => set('compress', (p) => (p.compress = on ? { from: 32, amount: 0.5 } : null))}
  />
  {#if params.compress}
    <StepAmount {session} {step} {op} path={['compress', 'amount']} name="Scales compress" neutral={0} />
    <StepAmount
      {session}
      {step}
      {op}
      path={['compress', 'from']}
      name="Scales compress what is coarser than"
    />
  {/if}
  <ol aria-label="Scales">
    {#each params.layers as _, layer (layer)}
      <li>
        <button
          class="tool"
          aria-pressed={alone === layer}
          aria-label={`See what is of ${sizeOf(layer)} in In`}
          title={`See what is of ${sizeOf(layer)} alone, in In`}
          onclick={() => (alone = alone === layer ? null : layer)}><View size={16} /></button
        >
        <div>
          <StepAmount
            {session}
            {step}
            {op}
            path={['layers', layer, 'gain']}
            name={`Scales gain of ${sizeOf(layer)}`}
            label={sizeOf(layer)}
            change={`gain of ${sizeOf(layer)}`}
            neutral={1}
          />
        </div>
      </li>
    {/each}
  </ol>
  <StepAmount {session} {step} {op} path={['residual']} name="Scales the rest" neutral={1} />
  <div class="row">
    <button
      class="tool raised"
      disabled={params.layers.length === MOST_LAYERS}
      onclick={() => set('one more scale', (p) => p.layers.push({ gain: 1, threshold: 0 }))}
      >A coarser scale</button
    >
    <button
      class="tool raised"
      disabled={params.layers.length === 1}
      onclick={() => set('one scale fewer', (p) => void p.layers.pop())}>One fewer</button
    >
  </div>
  <details>
    <summary>Leave out what is noise</summary>
    {#each params.layers as _, layer (layer)}
      <StepAmount
        {session}
        {step}
        {op}
        path={['layers', layer, 'threshold']}
        name={`Scales noise threshold of ${sizeOf(layer)}, in sigma`}
        label={`${sizeOf(layer)}, σ`}
        change={`threshold of ${sizeOf(layer)}`}
      />
    {/each}
    <p class="quiet" role="status">
      What is fainter than so many σ of the noise goes, and the rest comes nearer by as much.
      {#if noise.length > 0}Noise: {noise.map((v) => `${told(100 * v, 3)} %`).join(', ')}.{/if}
    </p>
  </details>
</div>

<style>
  ol {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: grid;
    grid-template-columns: 28px 1fr;
    align-items: center;
  }
  .row {
    display: flex;
    gap: 6px;
  }
  summary {
    min-height: 24px;
    cursor: pointer;
  }
  p {
    margin: 6px 0 0;
    font-size: 12px;
  }
</style>
