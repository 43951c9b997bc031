<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import { deconvolve as op, type DeconvolveParams, type DeconvolveSolution } from '$core/ops/deconvolve';
  import { actsOn, stepOfHouse } from '$core/document';
  import { paramsOf } from '$core/ops/op';
  import { ringsSeen } from '$core/ops/rings-seen';
  import Choice from './Choice.svelte';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';
  import SpreadMeasured from './SpreadMeasured.svelte';
  import StepAmount from './StepAmount.svelte';
  import Switch from './Switch.svelte';
  import WatchRounds from './WatchRounds.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const { kind } = $derived(params.psf);
  const solving = solvedNumbers<DeconvolveSolution>(
    () => bench,
    'the point-spread of the stars',
    () => kind === 'stars'
  );
  const measured = $derived(kind === 'stars' ? (solving.value?.measured ?? null) : null);

  /** The rings that are held are seen as a mask in In. */
  let seen = $state(false);
  const holds = $derived(params.rings > 0);
  const channels = $derived.by(() => {
    const { model, channels: letters } = actsOn(step);
    return letters.map((letter) => `${model}.${letter}`);
  });
  $effect(() => {
    bench.inSeen =
      seen && holds
        ? {
            step: { ...stepOfHouse(ringsSeen.id, { how: params, channels }), id: step.id },
            title: 'Where rings are held, and how strongly'
          }
        : null;
  });
  $effect(() => () => (bench.inSeen = null));
  // Who chooses another tab of In has seen enough.
  $effect(() => {
    if (bench.inSeen === null && holds) seen = false;
  });

  function set(what: string, change: (p: DeconvolveParams) => void): void {
    session.changeParams(op, `Sharpen: ${what}`, change);
  }

  const numbers = $derived(
    kind === 'stars'
      ? []
      : ([
          ['fwhm', 'Point-spread width'],
          ...(kind === 'moffat' ? [['beta', 'Point-spread foot']] : []),
          ['ratio', 'Point-spread roundness'],
          ...(params.psf.ratio < 1 ? [['angle', 'Point-spread turned by']] : [])
        ] as const)
  );
</script>

<div class="panel stacked">
  <Choice
    legend="Point-spread"
    upright
    value={kind}
    values={[
      ['gauss', 'a Gaussian'],
      ['moffat', 'a Moffat, with a wide foot'],
      ['stars', 'measured from its own stars']
    ]}
    onchange={(next) => set('point-spread', (p) => (p.psf.kind = next))}
  />
  {#each numbers as [key, name] (key)}
    <StepAmount {session} {step} {op} path={['psf', key]} {name} />
  {/each}
  {#if kind === 'stars'}
    {#if measured?.psf}
      {@const { psf } = measured}
      <SpreadMeasured {psf} {measured} size={session.cursor.head} />
      <Button
        size="small"
        kind="tertiary"
        on:click={() => set('keep what was measured', (p) => (p.psf = { ...psf }))}>Keep these numbers</Button
      >
    {:else if measured}
      <p class="warn">
        The picture stays as it is: fewer than five of its stars stand alone, are bright enough and not burnt
        out. Give the point-spread by hand, or measure it on a picture of more stars.
      </p>
    {:else}<p class="quiet">Looking at its stars …</p>{/if}
  {/if}
  <StepAmount {session} {step} {op} path={['iterations']} name="Sharpen iterations" />
  <WatchRounds
    {bench}
    {step}
    rounds={params.iterations}
    onkeep={(rounds) => set('iterations', (p) => (p.iterations = rounds))}
  />
  <StepAmount {session} {step} {op} path={['rings']} name="Hold rings about stars" />
  {#if holds}
    <Switch label="See them as a mask in In" on={seen} onchange={(on) => (seen = on)} />
  {/if}
  <StepAmount {session} {step} {op} path={['smoothness']} name="Hold noise" />
  <p class="quiet">
    Works on light. More iterations bring out more, and more noise with it: judge it at 1:1, and hold it to a
    mask or fade it where it is too much.
  </p>
</div>
