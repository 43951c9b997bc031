<script lang="ts">
  import type { MaskSource } from '$core/document';
  import { fromFrame, toFrame, type Geometry } from '$core/raster/geometry';
  import { arrowStep } from '../arrows';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { onPicture, onView, over } from '../viewer/overlay';

  interface Props {
    session: Session;
    bench: BenchState;
    geometry: Geometry;
    ramp: Extract<MaskSource, { kind: 'ramp' }>;
  }
  let { session, bench, geometry, ramp }: Props = $props();

  const { viewport } = $derived(bench);
  let layer: HTMLDivElement | undefined = $state();
  const ends = ['from', 'to'] as const;
  type End = (typeof ends)[number];
  const at = $derived(
    Object.fromEntries(
      ends.map((end) => {
        const [x, y] = ramp[end];
        return [end, onView(viewport.placement, viewport.view, fromFrame(geometry, { x, y }))];
      })
    ) as Record<End, { x: number; y: number }>
  );
  const radius = $derived(Math.hypot(at.to.x - at.from.x, at.to.y - at.from.y));
  let dragged: End | null = null;

  function moveTo(end: End, x: number, y: number): void {
    bench.masks.changeTerm(
      'Move a ramp',
      ({ source }) => {
        if (source.kind === 'ramp') source[end] = [Math.round(x * 10) / 10, Math.round(y * 10) / 10];
      },
      `ramp ${end}`
    );
  }

  function drag(event: PointerEvent): void {
    if (!dragged || !layer) return;
    const { x, y } = toFrame(geometry, onPicture(viewport.placement, viewport.view, over(layer, event)));
    moveTo(dragged, x, y);
  }

  function onkeydown(event: KeyboardEvent, end: End): void {
    const by = event.shiftKey ? 10 : 1;
    const [dx, dy] = arrowStep(event);
    if (!dx && !dy) return;
    event.preventDefault();
    event.stopPropagation();
    moveTo(end, ramp[end][0] + dx * by, ramp[end][1] + dy * by);
  }
</script>

<div class="layer" bind:this={layer}>
  <svg aria-hidden="true">
    {#if ramp.shape === 'round'}
      <circle cx={at.from.x} cy={at.from.y} r={radius} fill="none" stroke="#000" stroke-width="3" />
      <circle cx={at.from.x} cy={at.from.y} r={radius} fill="none" stroke="#fff" />
    {/if}
    <line x1={at.from.x} y1={at.from.y} x2={at.to.x} y2={at.to.y} stroke="#000" stroke-width="3" />
    <line x1={at.from.x} y1={at.from.y} x2={at.to.x} y2={at.to.y} stroke="#fff" />
  </svg>
  {#each ends as end (end)}
    <button
      class="handle"
      class:full={end === 'from'}
      style:left="{at[end].x}px"
      style:top="{at[end].y}px"
      aria-label={end === 'from' ? 'Full end of the ramp' : 'Empty end of the ramp'}
      title={end === 'from' ? 'The mask is full here' : 'The mask is nothing from here on'}
      onpointerdown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        dragged = end;
      }}
      onpointermove={drag}
      onpointerup={() => {
        dragged = null;
        session.endGesture();
      }}
      onpointercancel={() => (dragged = null)}
      onkeydown={(event) => onkeydown(event, end)}
    ></button>
  {/each}
</div>

<style>
  .layer {
    position: absolute;
    inset: 0;
    overflow: hidden;
    pointer-events: none;
  }
  svg {
    width: 100%;
    height: 100%;
  }
  .handle {
    position: absolute;
    width: 20px;
    height: 20px;
    padding: 0;
    translate: -50% -50%;
    border: 2px solid #fff;
    border-radius: 50%;
    background: rgb(20 20 20 / 60%);
    box-shadow: 0 0 0 1px #000;
    cursor: move;
    pointer-events: auto;
    touch-action: none;
  }
  .full {
    background: #fff;
  }
</style>
