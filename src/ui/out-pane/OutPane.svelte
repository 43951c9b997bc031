<script lang="ts">
  import Maximize from 'carbon-icons-svelte/lib/Maximize.svelte';
  import type { Session } from '../bench/session.svelte';
  import Tabs from '../shell/Tabs.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Spot } from '../viewer/spot';
  import type { Viewport } from '../viewer/viewport.svelte';

  type Tab = 'after' | 'end';
  interface Props {
    session: Session;
    viewport: Viewport;
    tab: Tab;
    /** While true, the picture as it came is shown. */
    original: boolean;
    onSpot: (spot: Spot | null) => void;
    onSettled: (milliseconds: number) => void;
  }
  let { session, viewport, tab = $bindable(), original, onSpot, onSettled }: Props = $props();

  const steps = $derived(
    original ? [] : tab === 'after' ? session.active.slice(0, session.through) : session.active
  );
  const shown = $derived({ ...session.source(steps), view: 'colour' as const });
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
  <Tabs title="Out" {tabs} bind:value={tab}>
    <button
      class="tool"
      aria-pressed={viewport.fit}
      title="Show the whole picture (F)"
      aria-label="Fit"
      onclick={() => viewport.showWhole()}
    >
      <Maximize size={16} /> Fit
    </button>
    <button
      class="tool mono"
      aria-pressed={!viewport.fit && viewport.placement.zoom === 1}
      title="One picture pixel a screen pixel (1)"
      onclick={() => viewport.zoomTo(1)}>1:1</button
    >
    <span class="mono zoom">{zoomTold}</span>
  </Tabs>
  <div class="stage">
    <PictureView {shown} {viewport} role="lead" label="The picture" priority={1} {onSpot} {onSettled} />
    {#if original}<span class="badge" role="status">Original</span>{/if}
  </div>
</section>

<style>
  .stage {
    position: relative;
    flex: 1;
    min-height: 0;
    background: var(--k-stage);
  }
  .badge {
    position: absolute;
    top: 12px;
    left: 12px;
    padding: 4px 10px;
    background: rgb(20 20 20 / 85%);
    color: var(--k-bone);
    font-weight: 600;
  }
  .zoom {
    min-width: 52px;
    text-align: right;
  }
</style>
