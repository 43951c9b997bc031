<script lang="ts">
  import type { Stroke } from '$core/document';
  import { fromFrame, toFrame, type Geometry } from '$core/raster/geometry';
  import type { BenchState } from '../bench/bench.svelte';
  import { onPicture, onView, over } from '../viewer/overlay';
  import type { Spot } from '../viewer/spot';
  import { wheelFactor } from '../viewer/viewport.svelte';

  interface Props {
    bench: BenchState;
    geometry: Geometry;
    onSpot: (spot: Spot | null) => void;
  }
  let { bench, geometry, onSpot }: Props = $props();

  const { viewport } = $derived(bench);
  const { brush } = $derived(bench.masks);
  let canvas: HTMLCanvasElement;
  let pointer = $state<{ x: number; y: number } | null>(null);
  /** Size of the brush on the screen, in CSS pixels. */
  const across = $derived((brush.size * viewport.placement.zoom) / window.devicePixelRatio);
  let points: [number, number, number][] | null = null;
  /** On the screen, for the veil that shows the stroke at once. */
  let trail: { x: number; y: number; pressure: number }[] = [];
  let last: [number, number, number] | null = null;

  const VEIL = 0.55;

  $effect(() => {
    const watching = new ResizeObserver(() => {
      canvas.width = canvas.clientWidth;
      canvas.height = canvas.clientHeight;
    });
    watching.observe(canvas);
    return () => watching.disconnect();
  });

  const placeOf = (at: { x: number; y: number }): { x: number; y: number } =>
    toFrame(geometry, onPicture(viewport.placement, viewport.view, at));

  function stroke(): Stroke {
    const { size, hardness, flow, erase } = brush;
    return { points: points!, size, hardness, flow, erase };
  }

  function add(event: PointerEvent): void {
    // A mouse has no pressure: it reports one half while a button is down.
    const pressure = event.pointerType === 'pen' ? Math.max(0.02, event.pressure) : 1;
    const moves = event.getCoalescedEvents();
    for (const e of moves.length > 0 ? moves : [event]) {
      const at = over(canvas, e);
      const { x, y } = placeOf(at);
      points!.push([x, y, pressure]);
      trail.push({ ...at, pressure });
    }
  }

  /** The veil over what is being painted: drawn with the pointer, before the picture has followed. */
  function drawVeil(from: number): void {
    const context = canvas.getContext('2d')!;
    context.lineCap = 'round';
    context.lineJoin = 'round';
    context.strokeStyle = brush.erase ? '#101010' : '#e3d9c3';
    for (let i = Math.max(1, from); i < trail.length; i++) {
      context.lineWidth = Math.max(1, across * (0.5 + 0.5 * brush.hardness));
      context.beginPath();
      context.moveTo(trail[i - 1].x, trail[i - 1].y);
      context.lineTo(trail[i].x, trail[i].y);
      context.stroke();
    }
    performance.mark('kromba:veil');
  }

  function onpointerdown(event: PointerEvent): void {
    if (event.button !== 0) return;
    event.preventDefault();
    canvas.setPointerCapture(event.pointerId);
    points = [];
    trail = [];
    if (event.shiftKey && last) {
      points.push(last);
      trail.push({ ...onScreen(last), pressure: last[2] });
    }
    add(event);
    trail.push(trail[trail.length - 1]);
    drawVeil(0);
    bench.masks.showStroke(stroke());
  }

  function onScreen([x, y]: readonly [number, number, number]): { x: number; y: number } {
    return onView(viewport.placement, viewport.view, fromFrame(geometry, { x, y }));
  }

  let asked = false;
  function onpointermove(event: PointerEvent): void {
    pointer = over(canvas, event);
    const { x, y } = onPicture(viewport.placement, viewport.view, pointer);
    const inside = x >= 0 && y >= 0 && x < geometry.width && y < geometry.height;
    onSpot(inside ? { x: Math.floor(x), y: Math.floor(y), onFrame: toFrame(geometry, { x, y }) } : null);
    if (!points) return;
    const from = trail.length;
    add(event);
    drawVeil(from);
    // The picture follows once a frame at most.
    if (asked) return;
    asked = true;
    requestAnimationFrame(() => {
      asked = false;
      if (points) bench.masks.showStroke({ ...stroke(), points: [...points] });
    });
  }

  function onpointerup(): void {
    if (!points) return;
    last = points[points.length - 1];
    bench.masks.takeStroke(stroke());
    points = null;
    trail = [];
    canvas.getContext('2d')!.clearRect(0, 0, canvas.width, canvas.height);
  }

  function oncancel(): void {
    points = null;
    bench.masks.live = null;
    canvas.getContext('2d')!.clearRect(0, 0, canvas.width, canvas.height);
  }

  function onwheel(event: WheelEvent): void {
    event.preventDefault();
    const box = canvas.getBoundingClientRect();
    const scale = window.devicePixelRatio;
    const at = {
      x: (event.clientX - box.left) * scale - viewport.view.width / 2,
      y: (event.clientY - box.top) * scale - viewport.view.height / 2
    };
    viewport.zoomTo(viewport.placement.zoom * wheelFactor(event), at);
  }
</script>

<canvas
  bind:this={canvas}
  style:opacity={VEIL}
  aria-label="Paint on the picture"
  {onpointerdown}
  {onpointermove}
  {onpointerup}
  onpointercancel={oncancel}
  onpointerleave={() => (pointer = null)}
  {onwheel}
></canvas>
{#if pointer}
  <span
    class="ring"
    class:erase={brush.erase}
    style:left="{pointer.x}px"
    style:top="{pointer.y}px"
    style:width="{across}px"
    style:height="{across}px"
  ></span>
{/if}

<style>
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    touch-action: none;
    cursor: none;
  }
  .ring {
    position: absolute;
    translate: -50% -50%;
    border: 1px solid #fff;
    border-radius: 50%;
    outline: 1px solid #000;
    pointer-events: none;
  }
  .erase {
    border-style: dashed;
  }
</style>
