<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import Maximize from 'carbon-icons-svelte/lib/Maximize.svelte';
  import { channelOf } from '$core/colour';
  import type { Step } from '$core/document';
  import { channel } from '$core/ops/channel';
  import { straighten } from '$core/ops/straighten';
  import { uncropped } from '$core/ops/straighten';
  import { pictureGeometry } from '$core/path/plan';
  import { opOf } from '$core/ops';
  import type { View } from '$core/path/view';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import Tabs from '../shell/Tabs.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Spot } from '../viewer/spot';
  import PaintLayer from './PaintLayer.svelte';
  import PinsLayer from './PinsLayer.svelte';
  import RampLayer from './RampLayer.svelte';
  import StraightenLayer from './StraightenLayer.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    onSpot: (spot: Spot | null) => void;
    onSeen: (milliseconds: number) => void;
    onSettled: (milliseconds: number) => void;
  }
  let { session, bench, onSpot, onSeen, onSettled }: Props = $props();

  const { viewport } = $derived(bench);
  const straightening = $derived(
    session.cursor.step?.op === 'straighten' &&
      session.cursor.step.enabled &&
      bench.outTab === 'after' &&
      !bench.original &&
      !bench.hand.picking
      ? session.cursor.step
      : null
  );
  /** While it is worked on, a straighten step is shown uncropped, and the picture before it for its corners. */
  function worked(step: Step): readonly Step[] {
    const before = session.cursor.stepsBefore;
    if (bench.hand.straighten === 'corners') return before;
    const params = paramsOf(straighten, step);
    const { width, height } = uncropped(params, pictureGeometry(session.cursor.head, before));
    return [...before, { ...step, params: { ...params, crop: { x: 0, y: 0, width, height } } }];
  }
  const whereOpen = $derived(bench.part === 'where' && session.cursor.step !== null);
  /** The grey that the entries of a stack make up to one of them. */
  function soloed(step: Step, at: number): readonly Step[] {
    const { stack } = paramsOf(channel, step);
    const blend = { ...step.blend, mode: 'normal' as const, opacity: 1 };
    const alone = { ...step, params: { stack: stack.slice(0, at + 1) }, blend, where: null };
    return [...session.cursor.stepsBefore, alone];
  }
  /** Other steps than the path's own, where those are looked at. */
  const others = $derived(
    bench.original
      ? session.cursor.active.filter(({ op }) => opOf(op).kind === 'geometry')
      : straightening
        ? worked(straightening)
        : whereOpen && bench.masks.inOut
          ? bench.masks.seen
          : bench.solo !== null && session.cursor.step?.op === 'channel'
            ? soloed(session.cursor.step, bench.solo)
            : null
  );
  const source = $derived(others ? session.cursor.showing(others) : bench.at(bench.outPlace));
  const view = $derived<View>(
    bench.hand.clipping ?? (bench.grey && !bench.original ? { channel: bench.channel } : 'colour')
  );
  const shown = $derived({ ...source, view });
  $effect(() => {
    const { width, height } = source.geometry;
    if (viewport.picture.width !== width || viewport.picture.height !== height)
      viewport.picture = { width, height };
  });
  const zoomTold = $derived(
    viewport.placement.zoom >= 0.995
      ? `${Math.round(viewport.placement.zoom * 100)} %`
      : `${(viewport.placement.zoom * 100).toFixed(1)} %`
  );
  const tabs = [
    { id: 'after', title: 'After this step' },
    { id: 'end', title: 'End of path' }
  ] as const;
  const badge = $derived(
    bench.original
      ? 'Original'
      : bench.hand.clipping
        ? 'Clipped samples'
        : bench.hand.picking
          ? `${bench.hand.picking.label} · Esc ends`
          : bench.proposal
            ? 'Proposed, not taken yet'
            : whereOpen && bench.masks.inOut
              ? 'The mask · M shows the picture'
              : bench.solo !== null && session.cursor.step?.op === 'channel'
                ? 'The grey so far'
                : ''
  );
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
    <span class="mono zoom">{zoomTold}</span>
  </Tabs>
  <div class="stage" role="tabpanel" id="out-panel" aria-labelledby={`out-panel-${bench.outTab}`}>
    <PictureView
      {shown}
      {viewport}
      role="lead"
      label="The picture"
      priority={1}
      {onSpot}
      {onSeen}
      {onSettled}
      onPick={bench.hand.picking ? (spot) => bench.hand.picking?.pick(spot) : undefined}
      onArea={bench.hand.picking?.area ? (from, to) => bench.hand.picking?.area?.(from, to) : undefined}
    />
    {#if straightening}
      <StraightenLayer {session} {bench} step={straightening} />
    {:else}
      <PinsLayer {session} {bench} geometry={source.geometry} />
      {#if whereOpen && bench.masks.term?.source.kind === 'ramp'}
        <RampLayer {session} {bench} geometry={source.geometry} ramp={bench.masks.term.source} />
      {/if}
      {#if whereOpen && bench.hand.painting}<PaintLayer {bench} geometry={source.geometry} {onSpot} />{/if}
    {/if}
    {#if badge}<span class="badge" role="status">{badge}</span>{/if}
  </div>
</section>

<style>
  .stage {
    position: relative;
    flex: 1;
    min-height: 0;
    overflow: hidden;
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
    pointer-events: none;
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
