<script lang="ts">
  import type { BenchState } from '../bench/bench.svelte';
  import { Clipped } from '../bench/clipped.svelte';
  import type { Session } from '../bench/session.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    channels: readonly string[];
    /** What the channels are called here. */
    names: readonly string[];
  }
  let { session, bench, channels, names }: Props = $props();

  const clipped = new Clipped();
  const source = $derived(bench.at(session.cursor.outOf));
  const ids = $derived(channels.join(' '));
  $effect(() => clipped.count(source, ids.split(' ')));
  $effect(() => () => clipped.stop());

  const number = new Intl.NumberFormat('en');
  const samples = $derived(source.geometry.width * source.geometry.height);
  /** The share where there is one to speak of, else the number; both have no room beside each other. */
  const part = (count: number): string => {
    const share = count / samples;
    const text = share < 0.0005 ? number.format(count) : `${(100 * share).toFixed(1)} %`;
    return clipped.exact ? text : `~ ${text}`;
  };
  const whole = (count: number): string =>
    `${number.format(count)} of ${number.format(samples)} samples${clipped.exact ? '' : ', as far as was counted'}. Hold to see where.`;
</script>

<div class="clipped" role="group" aria-label="Clipped samples" aria-busy={!clipped.exact}>
  {#each names as name, i (name)}
    {@const count = clipped.counts?.[i]}
    <div>
      <span class="name">{name}</span>
      {#if count}
        {@const { low, high } = count}
        <button
          class="tool mono"
          class:some={low > 0}
          title={whole(low)}
          onpointerdown={() => bench.hand.look({ clipped: [channels[i]], ends: 'low' })}
          onpointerup={() => bench.hand.look(null)}
          onpointerleave={() => bench.hand.look(null)}>black {part(low)}</button
        >
        <button
          class="tool mono"
          class:some={high > 0}
          title={whole(high)}
          onpointerdown={() => bench.hand.look({ clipped: [channels[i]], ends: 'high' })}
          onpointerup={() => bench.hand.look(null)}
          onpointerleave={() => bench.hand.look(null)}>white {part(high)}</button
        >
      {:else}<span class="quiet">counting …</span>{/if}
    </div>
  {/each}
</div>

<style>
  .clipped div {
    display: grid;
    grid-template-columns: 28px 1fr 1fr;
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
    justify-content: flex-start;
    font-size: 11px;
  }
  .some {
    color: var(--k-warn);
  }
</style>
