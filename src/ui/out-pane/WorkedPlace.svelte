<script lang="ts">
  import { stepOfHouse, type Step } from '$core/document';
  import { opOf } from '$core/ops';
  import { channel } from '$core/ops/channel';
  import { paramsOf } from '$core/ops/op';
  import { straighten, uncropped } from '$core/ops/straighten';
  import { pictureGeometry } from '$core/path/plan';
  import type { View } from '$core/path/view';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Difference } from '../viewer/shown';
  import type { Spot } from '../viewer/spot';
  import LiftSign from './LiftSign.svelte';
  import PaintLayer from './PaintLayer.svelte';
  import PinsLayer from './PinsLayer.svelte';
  import RampLayer from './RampLayer.svelte';
  import SkyLayer from './SkyLayer.svelte';
  import StarsLayer from './StarsLayer.svelte';
  import StraightenLayer from './StraightenLayer.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    /** How far it is from another place, where that is what is seen. */
    minus: Difference | null;
    onSpot: (spot: Spot | null) => void;
    onSeen: (milliseconds: number) => void;
    onSettled: (milliseconds: number) => void;
  }
  let { session, bench, minus, onSpot, onSeen, onSettled }: Props = $props();

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
  /** The model of a sky step, or what it spares. */
  const skyOf = (step: Step, what: 'model' | 'spared'): readonly Step[] => [
    ...session.cursor.stepsBefore,
    stepOfHouse('(sky)', { how: step.params, what })
  ];
  /** What a step that goes round and round has come to. */
  const afterRounds = (step: Step, iterations: number): readonly Step[] => [
    ...session.cursor.stepsBefore,
    { ...step, params: { ...step.params, iterations } }
  ];
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
            : bench.skySeen && session.cursor.step?.op === 'sky'
              ? skyOf(session.cursor.step, bench.skySeen)
              : bench.roundsSeen !== null && session.cursor.step?.op === 'deconvolve'
                ? afterRounds(session.cursor.step, bench.roundsSeen)
                : null
  );
  const source = $derived(others ? session.cursor.showing(others) : bench.at(bench.outPlace));
  const view = $derived<View>(
    bench.hand.clipping ?? (bench.grey && !bench.original ? { channel: bench.channel } : 'colour')
  );
  const shown = $derived({ ...source, view, minus: bench.original ? null : minus });
  $effect(() => {
    const { width, height } = source.geometry;
    if (viewport.picture.width !== width || viewport.picture.height !== height)
      viewport.picture = { width, height };
  });
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
  {#if bench.skyBoxes && !bench.original}<SkyLayer {bench} boxes={bench.skyBoxes} />{/if}
  {#if bench.rings && !bench.original}<StarsLayer {bench} rings={bench.rings} />{/if}
  <PinsLayer {session} {bench} geometry={source.geometry} />
  {#if whereOpen && bench.masks.term?.source.kind === 'ramp'}
    <RampLayer {session} {bench} geometry={source.geometry} ramp={bench.masks.term.source} />
  {/if}
  {#if whereOpen && bench.hand.painting}<PaintLayer {bench} geometry={source.geometry} {onSpot} />{/if}
{/if}
{#if badge}<span class="badge" role="status">{badge}</span>{/if}
{#if bench.lift.of(source)}<LiftSign lift={bench.lift} />{/if}

<style>
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
</style>
