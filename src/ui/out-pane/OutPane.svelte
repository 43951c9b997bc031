<script lang="ts">
  import Compare from 'carbon-icons-svelte/lib/Compare.svelte';
  import Maximize from 'carbon-icons-svelte/lib/Maximize.svelte';
  import { channelOf } from '$core/colour';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import Tabs from '../shell/Tabs.svelte';
  import type { Spot } from '../viewer/spot';
  import CompareBar from './CompareBar.svelte';
  import LiftControl from './LiftControl.svelte';
  import DifferenceFigures from './DifferenceFigures.svelte';
  import Places from './Places.svelte';
  import WhatDiffers from './WhatDiffers.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    onSpot: (spot: Spot | null) => void;
    onSeen: (milliseconds: number) => void;
    onSettled: (milliseconds: number) => void;
  }
  let { session, bench, onSpot, onSeen, onSettled }: Props = $props();

  const { viewport, compare } = $derived(bench);
  const zoomTold = $derived(
    viewport.placement.zoom >= 0.995
      ? `${Math.round(viewport.placement.zoom * 100)} %`
      : `${(viewport.placement.zoom * 100).toFixed(1)} %`
  );
  const tabs = [
    { id: 'after', title: 'After this step' },
    { id: 'end', title: 'End of path' }
  ] as const;
</script>

<section class="pane" aria-label="Out: the picture">
  <Tabs title="Out" panel="out-panel" {tabs} bind:value={bench.outTab}>
    <button
      class="tool"
      aria-pressed={bench.grey}
      title="See the channel as a grey picture instead of the colours (G)"
      onclick={() => (bench.grey = !bench.grey)}
      >Grey {bench.grey ? channelOf(bench.channel).sign : ''}</button
    >
    <button
      class="tool"
      aria-pressed={viewport.fit}
      title="Show the whole picture (F)"
      aria-label="Fit"
      onclick={() => viewport.showWhole()}
    >
      <span class="icon"><Maximize size={16} /></span> Fit
    </button>
    <button
      class="tool mono"
      aria-pressed={!viewport.fit && viewport.placement.zoom === 1}
      title="One picture pixel a screen pixel (1)"
      onclick={() => viewport.zoomTo(1)}>1:1</button
    >
    <button
      class="tool"
      aria-pressed={compare.several}
      title="Keep what is seen in a place of its own beside (B), to compare it with what comes"
      onclick={() => compare.add()}
    >
      <span class="icon"><Compare size={16} /></span> Beside
    </button>
    {#if bench.lift.can}<LiftControl lift={bench.lift} />{/if}
    <span class="mono zoom">{zoomTold}</span>
  </Tabs>
  {#if compare.several}<CompareBar {bench} />{/if}
  <div class="stage" role="tabpanel" id="out-panel" aria-labelledby={`out-panel-${bench.outTab}`}>
    <Places {session} {bench} {onSpot} {onSeen} {onSettled} />
  </div>
  {#if compare.several && compare.way === 'difference'}<DifferenceFigures {bench} />{/if}
  {#if compare.several && compare.telling}<WhatDiffers {bench} />{/if}
</section>

<style>
  .stage {
    position: relative;
    flex: 1;
    min-height: 0;
    overflow: hidden;
    background: var(--k-stage);
  }
  .icon {
    display: flex;
  }
  /* On a narrow screen the words are enough. */
  @media (max-width: 1260px) {
    .icon {
      display: none;
    }
  }
  .zoom {
    min-width: 52px;
    text-align: right;
  }
</style>
