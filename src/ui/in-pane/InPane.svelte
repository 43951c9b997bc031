<script lang="ts">
  import { channelOf } from '$core/colour';
  import type { View } from '$core/path/view';
  import type { Session } from '../bench/session.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Spot } from '../viewer/spot';
  import type { Viewport } from '../viewer/viewport.svelte';
  import Tabs from '../shell/Tabs.svelte';
  import Wall from './Wall.svelte';

  type Tab = 'wall' | 'one' | 'before';
  interface Props {
    session: Session;
    viewport: Viewport;
    tab: Tab;
    channel: string;
    onSpot: (spot: Spot | null) => void;
  }
  let { session, viewport, tab = $bindable(), channel = $bindable(), onSpot }: Props = $props();

  const source = $derived(session.source(session.active.slice(0, session.before)));
  const view = $derived<View>(tab === 'before' ? 'colour' : { channel });
  const tabs = [
    { id: 'wall', title: 'Wall' },
    { id: 'one', title: 'One' },
    { id: 'before', title: 'Before' }
  ] as const;

  function showOne(id: string): void {
    channel = id;
    tab = 'one';
  }
</script>

<section class="pane" aria-label="In: what comes into the selected step">
  <Tabs title="In" {tabs} bind:value={tab}>
    {#if tab === 'one'}<span class="quiet">{channelOf(channel).sign} · {channelOf(channel).name}</span>{/if}
  </Tabs>
  {#if tab === 'wall'}
    <Wall {source} {viewport} {channel} onchoose={(id) => (channel = id)} onopen={showOne} {onSpot} />
  {:else}
    <div class="one">
      <PictureView
        shown={{ ...source, view }}
        {viewport}
        role="twin"
        label={tab === 'before' ? 'Picture before the step' : `Channel ${channelOf(channel).name}`}
        priority={2}
        {onSpot}
      />
    </div>
  {/if}
</section>

<style>
  .one {
    flex: 1;
    min-height: 0;
    background: var(--k-stage);
  }
</style>
