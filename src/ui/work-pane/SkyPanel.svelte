<script lang="ts">
  import type { SkyModel } from '$core/measure/sky-model';
  import { paramsOf } from '$core/ops/op';
  import { sky as op, type SkyParams } from '$core/ops/sky';
  import { told } from '../numbers';
  import Choice from './Choice.svelte';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';
  import StepAmount from './StepAmount.svelte';
  import Switch from './Switch.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const solving = solvedNumbers<{ models: readonly SkyModel[] }>(
    () => bench,
    'the sky',
    () => true
  );
  const model = $derived(solving.value?.models[0] ?? null);
  // The boxes are shown over the picture while their step is worked on.
  $effect(() => {
    bench.skyBoxes = model?.boxes ?? null;
    return () => (bench.skyBoxes = null);
  });
  $effect(() => () => (bench.skySeen = null));
  $effect(() => {
    if (bench.skySeen === 'spared' && !params.spare) bench.skySeen = null;
  });

  function set(what: string, change: (p: SkyParams) => void): void {
    session.changeParams(op, `Even sky: ${what}`, change);
  }

  const used = $derived(model?.boxes.filter((box) => box.used).length ?? 0);
  const byHand = $derived(params.added.length + params.removed.length);

  /** What a click on the picture does, until Esc. */
  function pick(which: 'added' | 'removed', label: string): void {
    bench.hand.pick({
      id: `sky ${which}`,
      label,
      pick: ({ x, y }) => set(label.toLowerCase(), (p) => p[which].push([x, y]))
    });
  }
</script>

<div class="panel stacked">
  <Choice
    legend="The sky is"
    value={params.model}
    values={[
      ['polynomial', 'a simple surface'],
      ['smooth', 'a supple one']
    ]}
    onchange={(kind) => set('model', (p) => (p.model = kind))}
  />
  {#if params.model === 'polynomial'}
    <StepAmount {session} {step} {op} path={['degree']} name="Even sky degree" />
  {:else}
    <StepAmount
      {session}
      {step}
      {op}
      path={['size']}
      name="Even sky smallest thing, thousandths of the longer side"
    />
    <StepAmount {session} {step} {op} path={['stiffness']} name="Even sky stiffness" />
  {/if}
  <Switch
    label="Spare objects"
    on={params.spare !== null}
    onchange={(on) => set('spare objects', (p) => (p.spare = on ? { above: 2, grow: 12, rounds: 3 } : null))}
  />
  {#if params.spare}
    <StepAmount {session} {step} {op} path={['spare', 'above']} name="Even sky objects above, in sigma" />
    <StepAmount {session} {step} {op} path={['spare', 'grow']} name="Even sky grow objects" />
    <StepAmount {session} {step} {op} path={['spare', 'rounds']} name="Even sky rounds" />
  {/if}
  <Choice
    legend="It is"
    value={params.correct}
    values={[
      ['subtract', 'taken off'],
      ['divide', 'divided by']
    ]}
    onchange={(correct) => set('correct', (p) => (p.correct = correct))}
  />
  <Switch
    label="One model for all channels"
    on={params.together}
    onchange={(on) => set('together', (p) => (p.together = on))}
  />
  <Choice
    legend="Out shows"
    value={bench.skySeen ?? 'picture'}
    values={[
      ['picture', 'the picture'],
      ['model', 'the model'],
      ...(params.spare ? ([['spared', 'what is spared']] as const) : [])
    ]}
    onchange={(what) => (bench.skySeen = what === 'picture' ? null : what)}
  />
  <div class="row">
    <button
      class="tool raised"
      aria-pressed={bench.hand.picking?.id === 'sky added'}
      onclick={() => pick('added', 'Add a box of sky')}>Add boxes</button
    >
    <button
      class="tool raised"
      aria-pressed={bench.hand.picking?.id === 'sky removed'}
      onclick={() => pick('removed', 'Leave a box out')}>Leave boxes out</button
    >
    <button
      class="tool raised"
      disabled={byHand === 0}
      onclick={() => set('boxes as found', (p) => Object.assign(p, { added: [], removed: [] }))}
      >As found</button
    >
  </div>
  <p class="quiet" role="status">
    {#if model}
      {used} of {model.boxes.length} boxes hold sky{model.spared > 0
        ? `; ${told(100 * model.spared, 0)} % of the picture is spared`
        : ''}{byHand > 0 ? `; ${byHand} by hand` : ''}.
    {:else}Looking at the sky …{/if}
  </p>
</div>

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
</style>
