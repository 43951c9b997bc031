<script lang="ts">
  import type { ChartPlace } from './chart-place.svelte';

  /** Where a chart stands, or why there is none. */
  let { place }: { place: ChartPlace } = $props();

  let element: HTMLDivElement | undefined = $state();
  $effect(() => element && place.fill(element));
</script>

{#if place.problem}<p class="warn">{place.problem}</p>{:else}<div bind:this={element}></div>{/if}

<style>
  div {
    flex: 1;
    width: 100%;
    height: 100%;
    min-height: 40px;
  }
  p {
    flex: 1;
    margin: 0;
    overflow: auto;
    padding: 4px 8px;
    font-size: 12px;
    line-height: 1.4;
  }
</style>
