<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import {
    stretch as op,
    stretchMethods,
    type Stretching,
    type StretchMethod,
    type StretchParams
  } from '$core/ops/stretch';
  import { told } from '../numbers';
  import Choice from './Choice.svelte';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';
  import StepAmount from './StepAmount.svelte';
  import Switch from './Switch.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));

  const METHODS: Record<StretchMethod, { title: string; purpose: string }> = {
    midtone: { title: 'By the middle', purpose: 'One tone is brought to one half; black and white stay.' },
    asinh: {
      title: 'By strength',
      purpose: 'Straight in the dark, and by ratios where it is bright (asinh).'
    },
    curve: {
      title: 'By the middle, lights held',
      purpose: 'Above a tone, lights are spread evenly by ratios, so that bright cores keep their detail.'
    }
  };
  const solving = solvedNumbers<{ channels: readonly Stretching[] }>(
    () => bench,
    'what the stretch solves',
    () => params.auto !== null
  );
  const found = $derived(solving.value?.channels ?? null);
  const same = $derived(
    found?.every(({ black, middle }) => black === found[0].black && middle === found[0].middle)
  );
  const NAMES = ['red', 'green', 'blue'];
  const isAsinh = $derived(params.method === 'asinh');

  function choose(what: string, change: (p: StretchParams) => void): void {
    session.changeParams(op, `Stretch: ${what}`, change);
  }

  function freeze(): void {
    if (!found) return;
    const [{ black, middle, strength }] = found;
    choose('freeze', (p) => Object.assign(p, { black, middle, strength, auto: null }));
  }
</script>

<div class="panel stacked">
  <Choice
    legend="Curve"
    upright
    value={params.method}
    values={stretchMethods.map((id) => [id, METHODS[id].title])}
    onchange={(method) => choose('curve', (p) => (p.method = method))}
  />
  <p class="quiet">{METHODS[params.method].purpose}</p>
  <Switch
    label="From the picture’s sky"
    on={params.auto !== null}
    onchange={(on) => choose('by the sky', (p) => (p.auto = on ? { below: 3, target: 0.2 } : null))}
  />
  {#if params.auto}
    <StepAmount {session} {step} {op} path={['auto', 'below']} name="Stretch black below the sky, in sigma" />
    <StepAmount {session} {step} {op} path={['auto', 'target']} name="Stretch sky comes to" />
    {#if found}
      <table class="mono found" aria-label="Found in the picture">
        <thead><tr><th></th><th>black, %</th><th>{isAsinh ? 'strength' : 'middle, %'}</th></tr></thead>
        <tbody>
          {#each same ? found.slice(0, 1) : found as of, c (c)}
            <tr>
              <th>{same ? 'all' : NAMES[c]}</th>
              <td>{told(100 * of.black, 3)}</td>
              <td>{isAsinh ? told(of.strength, 1) : told(100 * of.middle, 4)}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#if same}<button class="tool raised" onclick={freeze}>Freeze these numbers</button>{/if}
    {/if}
  {:else}
    {#if bench.lift.now}
      {@const { black, middle } = bench.lift.now}
      <button
        class="tool raised"
        title="Begin from the numbers by which the view is lifted"
        onclick={() =>
          choose('as the view', (p) =>
            Object.assign(p, { method: 'midtone', black: black[0], middle: middle[0] })
          )}>As the view is lifted</button
      >
    {/if}
    <StepAmount {session} {step} {op} path={['black']} name="Stretch black" />
    {#if isAsinh}
      <StepAmount {session} {step} {op} path={['strength']} name="Stretch strength" />
    {:else}
      <StepAmount {session} {step} {op} path={['middle']} name="Stretch middle" />
    {/if}
  {/if}
  {#if params.method === 'curve'}
    <StepAmount {session} {step} {op} path={['protect']} name="Stretch protect above" />
  {/if}
  <Choice
    legend="Colour"
    value={params.colour}
    values={[
      ['each', 'Each channel'],
      ['hue', 'Light alone, hues kept']
    ]}
    onchange={(colour) => choose('colour', (p) => (p.colour = colour))}
  />
  {#if params.auto && params.colour === 'each'}
    <Switch
      label="One curve for all channels"
      on={params.together}
      onchange={(on) => choose('together', (p) => (p.together = on))}
    />
  {/if}
</div>
