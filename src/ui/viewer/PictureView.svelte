<script lang="ts">
  import { untrack } from 'svelte';
  import type { Spot } from './spot';
  import { TileView, type Shown } from './tiles';
  import type { Viewport } from './viewport.svelte';

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
  }
  let { shown, viewport, role, label, priority, delay = 0, onSpot, onSettled }: Props = $props();

  let canvas: HTMLCanvasElement;
  let size = $state({ width: 0, height: 0 });
  let frameAsked = false;
  let drag: { x: number; y: number } | null = null;

  const tiles = new TileView(
    untrack(() => priority),
    redraw,
    (milliseconds) => onSettled?.(milliseconds),
    untrack(() => delay)
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

  const placement = $derived(
    role === 'lead' ? viewport.placement : viewport.placementFor(size, role === 'small')
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
      if (role === 'lead') viewport.view = size;
    });
    watching.observe(canvas);
    return () => {
      watching.disconnect();
      tiles.close();
    };
  });

  $effect(() => {
    if (size.width > 0) tiles.show(shown, placement, size);
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
    const inside = x >= 0 && y >= 0 && x < shown.frame.width && y < shown.frame.height;
    return inside ? { x, y } : null;
  }

  function onwheel(event: WheelEvent): void {
    event.preventDefault();
    const factor = Math.exp(-event.deltaY * (event.deltaMode === 1 ? 0.05 : 0.0016));
    viewport.zoomTo(placement.zoom * factor, fromMiddle(event), placement);
  }

  function onpointerdown(event: PointerEvent): void {
    if (role === 'small' || (event.button !== 0 && event.button !== 1)) return;
    canvas.setPointerCapture(event.pointerId);
    drag = fromMiddle(event);
  }

  function onpointermove(event: PointerEvent): void {
    onSpot?.(spotAt(event));
    if (!drag) return;
    const at = fromMiddle(event);
    if (at.x !== drag.x || at.y !== drag.y) viewport.panBy(at.x - drag.x, at.y - drag.y, placement);
    drag = at;
  }

  function ondblclick(event: MouseEvent): void {
    if (role === 'small') return;
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
  onpointerup={() => (drag = null)}
  onpointercancel={() => (drag = null)}
  onpointerleave={() => onSpot?.(null)}
></canvas>

<style>
  canvas {
    display: block;
    width: 100%;
    height: 100%;
    touch-action: none;
  }
  .grab {
    cursor: crosshair;
  }
</style>
