<script lang="ts">
  import type { BenchState } from '../bench/bench.svelte';
  import { Clipped } from '../bench/clipped.svelte';
  import type { Session } from '../bench/session.svelte';
  import { pool } from '../services';

  interface Props {
    session: Session;
    bench: BenchState;
    channels: readonly string[];
    /** What the channels are called here. */
    names: readonly string[];
  }
  let { session, bench, channels, names }: Props = $props();

  const clipped = new Clipped(pool);
  const source = $derived(session.source(bench.steps.slice(0, session.through)));
  const ids = $derived(channels.join(' '));
  $effect(() => clipped.count(source, ids.split(' ')));
  $effect(() => () => clipped.stop());

  const number = new Intl.NumberFormat('en');
  const samples = $derived(source.geometry.width * source.geometry.height);
  const part = (count: number): string =>
    // A share that is nothing when rounded is left out.
    count / samples < 0.0005
      ? number.format(count)
      : `${number.format(count)} (${((100 * count) / samples).toFixed(1)} %)`;
</script>

<div class="clipped" aria-label="Clipped samples">
  {#each names as name, i (name)}
    {@const count = clipped.counts?.[i]}
    <div>
      <span class="name">{name}</span>
      {#if count}
        {@const { low, high } = count}
        <button
          class="tool mono"
          class:some={low > 0}
          title="Hold to see where"
          onpointerdown={() => (bench.clipping = { clipped: [channels[i]], ends: 'low' })}
          onpointerup={() => (bench.clipping = null)}
          onpointerleave={() => (bench.clipping = null)}>black {part(low)}</button
        >
        <button
          class="tool mono"
          class:some={high > 0}
          title="Hold to see where"
          onpointerdown={() => (bench.clipping = { clipped: [channels[i]], ends: 'high' })}
          onpointerup={() => (bench.clipping = null)}
          onpointerleave={() => (bench.clipping = null)}>white {part(high)}</button
        >
      {:else}<span class="quiet">counting clipped samples …</span>{/if}
    </div>
  {/each}
</div>

<style>
  .clipped div {
    display: flex;
    align-items: center;
    gap: 4px;
    height: 17px;
    overflow: hidden;
    font-size: 11px;
    white-space: nowrap;
  }
  .name {
    min-width: 26px;
    color: var(--k-text-quiet);
  }
  .tool {
    height: 17px;
    min-width: 0;
    padding: 0 4px;
    font-size: 11px;
  }
  .some {
    color: var(--k-warn);
  }
</style>
