<script lang="ts">
  import type { View } from '$core/path/view';
  import type { BenchState } from '../bench/bench.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Spot } from '../viewer/spot';

  interface Props {
    bench: BenchState;
    at: number;
    onSpot: (spot: Spot | null) => void;
  }
  let { bench, at, onSpot }: Props = $props();

  const { compare, viewport } = $derived(bench);
  const shown = $derived(compare.shown(at));
  const view = $derived<View>(bench.hand.clipping ?? (bench.grey ? { channel: bench.channel } : 'colour'));
  const title = $derived(compare.title(at));
</script>

{#if typeof shown === 'string'}
  <p role="status">
    {#if shown === 'gone'}
      {title} is not in the document any more. Undo brings it back, or close this place.
    {:else}
      Opening {title} …
    {/if}
  </p>
{:else}
  <PictureView
    shown={{ ...shown, view }}
    {viewport}
    role="twin"
    label={`Place ${at + 1}: ${title}`}
    priority={2}
    {onSpot}
  />
{/if}

<style>
  p {
    max-width: 44ch;
    margin: 25% auto 0;
    padding: 0 16px;
    color: var(--k-text-quiet);
    text-align: center;
  }
</style>
