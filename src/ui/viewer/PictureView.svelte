<script lang="ts">
  import { untrack } from 'svelte';
  import { toFrame } from '$core/raster/geometry';
  import { liftHere } from '../bench/lift.svelte';
  import { trouble } from '../bench/trouble.svelte';
  import { roundOf } from '../long-work.svelte';
  import { askedFirst } from './asked-first.svelte';
  import type { Spot } from './spot';
  import type { Shown } from './shown';
  import { TileView } from './tiles';
  import { wheelFactor, wholePlacement, type Viewport } from './viewport.svelte';

  interface Props {
    shown: Shown;
    viewport: Viewport;
    /** `lead` sets the viewport's size, `twin` follows it, `small` shows the same part in a small space. */
    role: 'lead' | 'twin' | 'small';
    label: string;
    priority: number;
    /** Changes closer to each other than this, in ms, are drawn once. */
    delay?: number;
    onSpot?: (spot: Spot | null) => void;
    onSettled?: (milliseconds: number) => void;
    /** A change is first seen; where it is given, a slow one is seen roughly first. */
    onSeen?: (milliseconds: number) => void;
    /** A click without a drag. While it is there, the pointer picks and a drag still moves. */
    onPick?: (spot: Spot) => void;
    /** A drag while it is there chooses a part of the picture instead of moving it. */
    onArea?: (from: Spot, to: Spot) => void;
  }
  let {
    shown,
    viewport,
    role,
    label,
    priority,
    delay = 0,
    onSpot,
    onSettled,
    onSeen,
    onPick,
    onArea
  }: Props = $props();

  let canvas: HTMLCanvasElement;
  let size = $state({ width: 0, height: 0 });
  let frameAsked = false;
  let drag: { x: number; y: number } | null = null;
  let pressed: { x: number; y: number } | null = null;
  let pressedSpot: Spot | null = null;
  /** The part being chosen, in CSS pixels of the view. */
  let area = $state<{ left: number; top: number; width: number; height: number } | null>(null);
  const STILL = 4;
  const lift = liftHere();

  const tiles = new TileView(
    untrack(() => priority),
    redraw,
    (milliseconds) => {
      trouble.clear(label);
      onSettled?.(milliseconds);
    },
    untrack(() => delay),
    untrack(() => onSeen ?? null),
    (error) => trouble.tell(label, error),
    (busy) => canvas?.setAttribute('aria-busy', String(busy))
  );

  function redraw(): void {
    if (frameAsked) return;
    frameAsked = true;
    requestAnimationFrame(() => {
      frameAsked = false;
      const context = canvas?.getContext('2d');
      if (context) tiles.draw(context);
    });
  }

  /** A picture that lies otherwise than the one the viewport looks at is shown whole. */
  const alone = $derived(
    shown.geometry.width !== viewport.picture.width || shown.geometry.height !== viewport.picture.height
  );
  const placement = $derived(
    alone
      ? wholePlacement(shown.geometry, size)
      : role === 'lead'
        ? viewport.placement
        : viewport.placementFor(size, role === 'small')
  );

  $effect(() => {
    const watching = new ResizeObserver(([entry]) => {
      const box = entry.devicePixelContentBoxSize?.[0];
      const width = box ? box.inlineSize : Math.round(entry.contentRect.width * devicePixelRatio);
      const height = box ? box.blockSize : Math.round(entry.contentRect.height * devicePixelRatio);
      if (width === 0 || height === 0) return;
      canvas.width = width;
      canvas.height = height;
      size = { width, height };
    });
    watching.observe(canvas);
    return () => {
      watching.disconnect();
      tiles.close();
    };
  });

  $effect(() => {
    if (role === 'lead' && size.width > 0) viewport.view = size;
  });
  function ask(): void {
    if (size.width > 0)
      tiles.show({ ...shown, round: roundOf(shown), lift: lift?.of(shown) ?? null }, placement, size);
  }
  // Before the rest of the page: the workers are at it while that is laid out.
  if (untrack(() => role) === 'lead') askedFirst(ask);
  else $effect.pre(ask);
  $effect(() => {
    if (trouble.round > 0) tiles.again();
  });

  /** From the middle of the view, in device pixels. */
  function fromMiddle(event: MouseEvent): { x: number; y: number } {
    const box = canvas.getBoundingClientRect();
    const scale = size.width / box.width;
    return {
      x: (event.clientX - box.left) * scale - size.width / 2,
      y: (event.clientY - box.top) * scale - size.height / 2
    };
  }

  function spotAt(event: MouseEvent): Spot | null {
    const at = fromMiddle(event);
    const x = Math.floor(placement.x + at.x / placement.zoom);
    const y = Math.floor(placement.y + at.y / placement.zoom);
    const { geometry } = shown;
    const inside = x >= 0 && y >= 0 && x < geometry.width && y < geometry.height;
    return inside ? { x, y, onFrame: toFrame(geometry, { x: x + 0.5, y: y + 0.5 }) } : null;
  }

  function onwheel(event: WheelEvent): void {
    event.preventDefault();
    if (alone) return;
    viewport.zoomTo(placement.zoom * wheelFactor(event), fromMiddle(event), placement);
  }

  function onpointerdown(event: PointerEvent): void {
    if (role === 'small' || (event.button !== 0 && event.button !== 1)) return;
    canvas.setPointerCapture(event.pointerId);
    drag = fromMiddle(event);
    pressed = drag;
    pressedSpot = spotAt(event);
  }

  function onpointerup(event: PointerEvent): void {
    const at = fromMiddle(event);
    if (pressed && event.button === 0 && Math.hypot(at.x - pressed.x, at.y - pressed.y) < STILL) {
      const spot = spotAt(event);
      if (spot) onPick?.(spot);
    } else if (area && pressedSpot) {
      const spot = spotAt(event);
      if (spot) onArea?.(pressedSpot, spot);
    }
    area = null;
    drag = null;
    pressed = null;
  }

  function onpointermove(event: PointerEvent): void {
    onSpot?.(spotAt(event));
    if (!drag || alone) return;
    const at = fromMiddle(event);
    if (onArea && pressed) {
      const scale = size.width / canvas.getBoundingClientRect().width;
      const css = (v: number, side: number): number => (v + side / 2) / scale;
      const far = Math.hypot(at.x - pressed.x, at.y - pressed.y) >= STILL;
      area =
        far || area
          ? {
              left: css(Math.min(at.x, pressed.x), size.width),
              top: css(Math.min(at.y, pressed.y), size.height),
              width: Math.abs(at.x - pressed.x) / scale,
              height: Math.abs(at.y - pressed.y) / scale
            }
          : null;
      return;
    }
    if (onPick && pressed && Math.hypot(at.x - pressed.x, at.y - pressed.y) < STILL) return;
    if (at.x !== drag.x || at.y !== drag.y) viewport.panBy(at.x - drag.x, at.y - drag.y, placement);
    drag = at;
  }

  function ondblclick(event: MouseEvent): void {
    if (role === 'small' || alone || onPick) return;
    if (viewport.fit) viewport.zoomTo(1, fromMiddle(event), placement);
    else viewport.showWhole();
  }
</script>

<canvas
  bind:this={canvas}
  class:grab={role !== 'small'}
  aria-label={label}
  {onwheel}
  {onpointerdown}
  {onpointermove}
  {ondblclick}
  {onpointerup}
  onpointercancel={() => (drag = pressed = area = null)}
  onpointerleave={() => onSpot?.(null)}
></canvas>
{#if area}
  <span
    class="area"
    style:left="{area.left}px"
    style:top="{area.top}px"
    style:width="{area.width}px"
    style:height="{area.height}px"
  ></span>
{/if}

<style>
  canvas {
    display: block;
    width: 100%;
    height: 100%;
    touch-action: none;
  }
  .area {
    position: absolute;
    border: 1px solid #fff;
    outline: 1px solid #000;
    pointer-events: none;
  }
  .grab {
    cursor: crosshair;
  }
</style>
