<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import { paramsOf } from '$core/ops/op';
  import { stars as op, type StarsParams, type StarsSolution } from '$core/ops/stars';
  import { stayApart, takeStarsApart } from '../bench/stars-apart';
  import Choice from './Choice.svelte';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';
  import StepAmount from './StepAmount.svelte';
  import Switch from './Switch.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const solving = solvedNumbers<StarsSolution>(
    () => bench,
    'the stars',
    () => true
  );
  const found = $derived(solving.value?.stars ?? null);
  const more = $derived(solving.value?.more ?? 0);
  let ringed = $state(true);
  // A ring is shown about each while their step is worked on.
  $effect(() => {
    bench.rings = ringed && found ? { stars: found, grow: params.grow } : null;
    return () => (bench.rings = null);
  });

  function set(what: string, change: (p: StarsParams) => void): void {
    session.changeParams(op, `${op.title}: ${what}`, change);
  }
  const byHand = $derived(params.added.length + params.removed.length);

  /** What a click on the picture does, until Esc. */
  function pick(which: 'added' | 'removed', label: string): void {
    bench.hand.pick({
      id: `stars ${which}`,
      label,
      pick: ({ x, y }) => set(label.toLowerCase(), (p) => p[which].push([x, y]))
    });
  }

  const number = new Intl.NumberFormat('en');
  const isPlain = $derived(
    step.enabled && params.keep === 'rest' && session.cursor.picture.steps.includes(step)
  );
  const why = $derived(isPlain ? stayApart(session.document, step) : null);
</script>

<div class="panel stacked">
  <Choice
    legend="Keep"
    value={params.keep}
    values={[
      ['rest', 'what is behind them'],
      ['stars', 'the stars alone']
    ]}
    onchange={(keep) => set('what is kept', (p) => (p.keep = keep))}
  />
  <StepAmount {session} {step} {op} path={['threshold']} name="Stars from, in sigma" />
  <StepAmount {session} {step} {op} path={['largest']} name="Radius of the largest star" />
  <StepAmount {session} {step} {op} path={['grow']} name="Grow stars by" />
  <div class="row">
    <button
      class="tool raised"
      aria-pressed={bench.hand.picking?.id === 'stars added'}
      onclick={() => pick('added', 'Add a star')}>Add stars</button
    >
    <button
      class="tool raised"
      aria-pressed={bench.hand.picking?.id === 'stars removed'}
      onclick={() => pick('removed', 'Let a star stay')}>Let stars stay</button
    >
    <button
      class="tool raised"
      disabled={byHand === 0}
      onclick={() => set('stars as found', (p) => Object.assign(p, { added: [], removed: [] }))}
      >As found</button
    >
  </div>
  <Switch label="Rings over the picture" on={ringed} onchange={(on) => (ringed = on)} />
  <p class="quiet" role="status">
    {#if !found}Looking for stars …
    {:else if found.length === 0}No stars: nothing rises so far over the noise, is round and falls off as a
      star does. The picture stays as it is.
    {:else}{number.format(found.length)} stars{byHand > 0 ? `, ${byHand} of the places by hand` : ''}.
      {#if more > 0}They are the brightest: {number.format(more)} fainter ones stay, which a second such step takes
        out.{/if}
    {/if}
  </p>
  {#if isPlain}
    <Button
      size="small"
      kind="tertiary"
      disabled={!found || found.length === 0 || why !== null}
      on:click={() => takeStarsApart(session, step)}>Bring them back at the end</Button
    >
    <p class="quiet">
      {why ??
        'Makes a picture of the stars alone and a last step that lays them over this one, where and as strongly as they were taken out: go on without them in between. That step’s opacity is their strength; levels in the picture of the stars change their size.'}
    </p>
  {/if}
  <p class="quiet">A mask under Where lets a bright knot stay as it is.</p>
</div>

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
</style>
