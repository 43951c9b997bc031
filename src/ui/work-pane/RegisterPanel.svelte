<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import type { Reference } from '$core/document';
  import { paramsOf } from '$core/ops/op';
  import { register as op, type Registration } from '$core/ops/register';
  import { told } from '../numbers';
  import ReferenceSelect from '../where/ReferenceSelect.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));

  let looking = $state.raw<AbortController | null>(null);
  let problem = $state('');
  /** What is chosen before it is found, so that the list tells it. */
  let sought = $state.raw<Reference | null>(null);
  let last = $state.raw<Registration | null>(null);
  const id = $derived(step.id);
  $effect(() => {
    void id;
    problem = '';
    return () => looking?.abort();
  });

  /** Nothing is changed before it is found. */
  async function find(to: Reference): Promise<void> {
    looking?.abort();
    const own = (looking = new AbortController());
    problem = '';
    sought = to;
    try {
      const found = await bench.onto(to, own.signal);
      if (own.signal.aborted) return;
      const { x, y, turn, scale } = (last = found);
      session.changeParams(op, 'Bring onto another picture', (p) => {
        p.to = to;
        p.found = { x, y, turn, scale };
      });
    } catch (error) {
      if (!own.signal.aborted) problem = (error as Error).message;
    } finally {
      if (looking === own) looking = sought = null;
    }
  }

  function choose(to: Reference | null): void {
    if (to) return void find(to);
    looking?.abort();
    session.changeParams(op, 'Bring onto none', (p) => {
      p.to = null;
      p.found = null;
    });
  }
</script>

<div class="panel stacked">
  <ReferenceSelect {session} label="Onto" own="choose one" value={sought ?? params.to} onchange={choose} />
  {#if looking}
    <p class="quiet" role="status">Looking for the stars of both …</p>
    <Button size="small" kind="tertiary" on:click={() => looking?.abort()}>Leave it</Button>
  {:else if problem}
    <p class="warn" role="alert">{problem}</p>
  {/if}
  {#if params.to && params.found}
    {@const { x, y, turn, scale } = params.found}
    <table class="mono found" aria-label="How it lies on the other">
      <tbody>
        <tr><th scope="row">right, px</th><td>{told(x, 2)}</td></tr>
        <tr><th scope="row">down, px</th><td>{told(y, 2)}</td></tr>
        <tr><th scope="row">turned, °</th><td>{told(turn, 3)}</td></tr>
        <tr><th scope="row">scaled, %</th><td>{told(100 * scale, 3)}</td></tr>
        {#if last && last.x === x && last.y === y}
          <tr><th scope="row">stars that agree</th><td>{last.stars}</td></tr>
          <tr><th scope="row">apart then, px</th><td>{told(last.rms, 3)}</td></tr>
        {/if}
      </tbody>
    </table>
    {#if !looking}
      <Button size="small" kind="tertiary" on:click={() => find(params.to!)}>Find anew</Button>
    {/if}
  {/if}
  <p class="quiet">
    The frame is moved, turned and scaled so that its stars stand where the other’s do, in one resampling with
    straightening. What it does not reach is missing, and counts in no average.
  </p>
</div>
