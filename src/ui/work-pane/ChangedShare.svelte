<script lang="ts">
  import type { Step } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import { DifferenceMeasure } from '../bench/difference.svelte';
  import { told } from '../numbers';

  let { bench, step }: { bench: BenchState; step: Step } = $props();

  const measure = new DifferenceMeasure();
  const before = $derived(bench.at({ before: step.id }));
  $effect(() => measure.measure(bench.at({ after: step.id }), { by: 'samples', times: 1, other: before }));
  $effect(() => () => measure.stop());

  const measured = $derived(measure.measured);
  const share = $derived(measured?.figures?.apart);
</script>

<!-- Counted at full size, while nothing more urgent is to be done. -->
<p class="quiet" role="status">
  {#if share === undefined}Counting what it changes …
  {:else if share === 0 && measured?.part === 1}It changes no pixel.
  {:else}It changes {measured!.part < 1 ? 'about ' : ''}{told(100 * share, share < 0.01 ? 3 : 1)} % of the pixels.{/if}
</p>
