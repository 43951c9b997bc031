<script lang="ts">
  import { channelOf } from '$core/colour';
  import type { View } from '$core/path/view';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Spot } from '../viewer/spot';
  import Tabs from '../shell/Tabs.svelte';
  import MaskBar from './MaskBar.svelte';
  import OneBar from './OneBar.svelte';
  import SourcesWall from './SourcesWall.svelte';
  import Wall from './Wall.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    onSpot: (spot: Spot | null) => void;
  }
  let { session, bench, onSpot }: Props = $props();

  const { viewport } = $derived(bench);
  const before = $derived(bench.at(session.cursor.into));
  const source = $derived(bench.inTab === 'mask' ? session.cursor.showing(bench.masks.seen) : before);
  const view = $derived<View>(bench.inTab === 'one' ? { channel: bench.channel } : 'colour');
  const tabs = [
    { id: 'wall', title: 'Wall' },
    { id: 'one', title: 'One' },
    { id: 'before', title: 'Before' },
    { id: 'mask', title: 'Mask' }
  ] as const;

  const shownTab = $derived(bench.inTab === 'sources' ? 'mask' : bench.inTab);

  function showOne(id: string): void {
    bench.channel = id;
    bench.inTab = 'one';
  }
</script>

<section class="pane" aria-label="In: what comes into the selected step">
  <Tabs title="In" panel="in-panel" {tabs} bind:value={() => shownTab, (v) => (bench.inTab = v)} />
  <div class="panel" role="tabpanel" id="in-panel" aria-labelledby={`in-panel-${shownTab}`}>
    {#if bench.inTab === 'sources'}
      <SourcesWall {session} {bench} />
    {:else if bench.inTab === 'wall'}
      <Wall
        source={before}
        {viewport}
        channel={bench.channel}
        onchoose={(id) => (bench.channel = id)}
        onopen={showOne}
        {onSpot}
      />
    {:else}
      {#if bench.inTab === 'mask'}<MaskBar {session} {bench} />{/if}
      {#if bench.inTab === 'one'}<OneBar bind:channel={bench.channel} />{/if}
      <div class="one">
        <PictureView
          shown={{ ...source, view }}
          {viewport}
          role="twin"
          label={bench.inTab === 'before'
            ? 'Picture before the step'
            : bench.inTab === 'mask'
              ? 'The mask'
              : `Channel ${channelOf(bench.channel).name}`}
          priority={2}
          {onSpot}
          onPick={bench.hand.picking ? (spot) => bench.hand.picking?.pick(spot) : undefined}
          onArea={bench.hand.picking?.area ? (from, to) => bench.hand.picking?.area?.(from, to) : undefined}
        />
      </div>
    {/if}
  </div>
</section>

<style>
  .panel {
    display: flex;
    flex: 1;
    flex-direction: column;
    min-height: 0;
  }
  .one {
    position: relative;
    flex: 1;
    min-height: 0;
    background: var(--k-stage);
  }
</style>
