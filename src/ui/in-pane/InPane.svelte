<script lang="ts">
  import { channelOf } from '$core/colour';
  import type { View } from '$core/path/view';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Spot } from '../viewer/spot';
  import Tabs from '../shell/Tabs.svelte';
  import { inputsOf } from '../bench/inputs';
  import FramesWall from './FramesWall.svelte';
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
  /** What a picture begins with is several: they stand on the wall, unless the channels are asked for. */
  const several = $derived(session.cursor.stepId === null && inputsOf(session).length > 0);
  /** Nothing comes before what a picture begins with, and nothing masks it. */
  const tab = $derived(several && bench.inTab !== 'one' ? 'wall' : bench.inTab);
  const frames = $derived(several && tab === 'wall' && bench.wallOf === 'frames');
  const source = $derived(
    bench.inSeen
      ? session.cursor.showing([...session.cursor.stepsBefore, bench.inSeen.step])
      : tab === 'mask'
        ? session.cursor.showing(bench.masks.seen)
        : before
  );
  const view = $derived<View>(tab === 'one' && !bench.inSeen ? { channel: bench.channel } : 'colour');

  const frameTabs = [
    { id: 'frames', title: 'Frames' },
    { id: 'wall', title: 'Wall' },
    { id: 'one', title: 'One' }
  ] as const;
  const stepTabs = [
    { id: 'wall', title: 'Wall' },
    { id: 'one', title: 'One' },
    { id: 'before', title: 'Before' },
    { id: 'mask', title: 'Mask' }
  ] as const;
  type Tab = (typeof frameTabs | typeof stepTabs)[number]['id'];
  const tabs = $derived<readonly { id: Tab; title: string }[]>(several ? frameTabs : stepTabs);
  const shownTab = $derived<Tab>(frames ? 'frames' : tab === 'sources' ? 'mask' : tab);

  function show(chosen: Tab): void {
    bench.inSeen = null;
    if (several && chosen !== 'one') bench.wallOf = chosen === 'frames' ? 'frames' : 'channels';
    bench.inTab = chosen === 'frames' ? 'wall' : chosen;
  }

  function showOne(id: string): void {
    bench.channel = id;
    bench.inTab = 'one';
  }
</script>

{#snippet one(label: string)}
  <div class="one">
    <PictureView
      shown={{ ...source, view }}
      {viewport}
      role="twin"
      {label}
      priority={2}
      {onSpot}
      onPick={bench.hand.picking ? (spot) => bench.hand.picking?.pick(spot) : undefined}
      onArea={bench.hand.picking?.area ? (from, to) => bench.hand.picking?.area?.(from, to) : undefined}
    />
  </div>
{/snippet}

<section class="pane" aria-label="In: what comes into the selected step">
  <Tabs title="In" panel="in-panel" {tabs} bind:value={() => shownTab, show} />
  <div class="panel" role="tabpanel" id="in-panel" aria-labelledby={`in-panel-${shownTab}`}>
    {#if bench.inSeen}
      <p class="seen">{bench.inSeen.title}</p>
      {@render one(bench.inSeen.title)}
    {:else if tab === 'sources'}
      <SourcesWall {session} {bench} />
    {:else if frames}
      <FramesWall {session} {bench} {onSpot} />
    {:else if tab === 'wall'}
      <Wall
        source={before}
        {viewport}
        channel={bench.channel}
        onchoose={(id) => (bench.channel = id)}
        onopen={showOne}
        {onSpot}
      />
    {:else}
      {#if tab === 'mask'}<MaskBar {session} {bench} />{/if}
      {#if tab === 'one'}<OneBar bind:channel={bench.channel} />{/if}
      {@render one(
        tab === 'before'
          ? 'Picture before the step'
          : tab === 'mask'
            ? 'The mask'
            : `Channel ${channelOf(bench.channel).name}`
      )}
    {/if}
  </div>
</section>

<style>
  .seen {
    margin: 0;
    padding: 6px 12px;
    border-bottom: 1px solid var(--k-line);
    font-size: 12px;
  }
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
