<script lang="ts">
  import ChartLineSmooth from 'carbon-icons-svelte/lib/ChartLineSmooth.svelte';
  import ColorPalette from 'carbon-icons-svelte/lib/ColorPalette.svelte';
  import Pin from 'carbon-icons-svelte/lib/Pin.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Instrument } from '../bench/layout.svelte';
  import type { Session } from '../bench/session.svelte';
  import HistogramChart from './HistogramChart.svelte';
  import PinsTable from './PinsTable.svelte';
  import PlaneChart from './PlaneChart.svelte';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const { layout } = $derived(bench);
  let width = $state(0);
  /** Two beside each other need this much; with less the one chosen last has all the room. */
  const ROOM = 560;
  const narrow = $derived(width > 0 && width < ROOM);
  const shows = (id: Instrument): boolean => (narrow ? layout.lastInstrument === id : layout.shows(id));

  function choose(id: Instrument): void {
    // Behind another it comes to the front; in front it is put away.
    if (narrow && layout.shows(id) && !shows(id)) layout.toggleInstrument(id);
    layout.toggleInstrument(id);
  }
  const instruments = [
    { id: 'histogram', title: 'Histogram', Icon: ChartLineSmooth },
    { id: 'pins', title: 'Pins', Icon: Pin },
    { id: 'plane', title: 'a b plane', Icon: ColorPalette }
  ] as const;
</script>

<section class="pane" aria-label="Instruments" bind:clientWidth={width}>
  <header class="pane-header">
    <span class="pane-title">Instruments</span>
    {#each instruments as { id, title, Icon } (id)}
      <button class="tool" aria-pressed={shows(id)} onclick={() => choose(id)}>
        <Icon size={16} />
        {title}{id === 'pins' && session.cursor.pins.length ? ` ${session.cursor.pins.length}` : ''}
      </button>
    {/each}
  </header>
  <div class="row">
    {#if shows('histogram')}<HistogramChart {session} {bench} />{/if}
    {#if shows('pins')}<PinsTable {session} {bench} />{/if}
    {#if shows('plane')}<PlaneChart {session} {bench} />{/if}
  </div>
</section>

<style>
  header {
    gap: 4px;
  }
  .pane-title {
    margin-right: 8px;
  }
  header .tool {
    height: 26px;
    font-size: 12px;
  }
  .row {
    display: flex;
    flex: 1;
    min-height: 0;
  }
  .row > :global(* + *) {
    border-left: 1px solid var(--k-line);
  }
</style>
