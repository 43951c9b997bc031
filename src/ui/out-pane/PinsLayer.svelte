<script lang="ts">
  import { fromFrame, toFrame, type Geometry } from '$core/raster/geometry';
  import { arrowStep } from '../arrows';
  import type { BenchState } from '../bench/bench.svelte';
  import { changePin, pinMark, removePin, roleSigns } from '../bench/pins';
  import type { Session } from '../bench/session.svelte';
  import { onPicture, onView, over } from '../viewer/overlay';

  let { session, bench, geometry }: { session: Session; bench: BenchState; geometry: Geometry } = $props();

  const { viewport } = $derived(bench);
  let layer: HTMLDivElement | undefined = $state();
  const pins = $derived(
    session.cursor.pins.map((pin) => {
      const place = fromFrame(geometry, { x: pin.x + 0.5, y: pin.y + 0.5 });
      const inside = place.x >= 0 && place.y >= 0 && place.x <= geometry.width && place.y <= geometry.height;
      return {
        pin,
        inside,
        at: onView(viewport.placement, viewport.view, place),
        side: (pin.size * viewport.placement.zoom) / window.devicePixelRatio
      };
    })
  );

  let dragged: string | null = null;

  function moveTo(id: string, x: number, y: number): void {
    const { width, height } = geometry.frame;
    const place = {
      x: Math.min(width - 1, Math.max(0, Math.floor(x))),
      y: Math.min(height - 1, Math.max(0, Math.floor(y)))
    };
    changePin(session, id, 'Move a pin', place, 'move pin');
  }

  function drag(event: PointerEvent): void {
    if (!dragged || !layer) return;
    const place = toFrame(geometry, onPicture(viewport.placement, viewport.view, over(layer, event)));
    moveTo(dragged, place.x, place.y);
  }

  function onkeydown(event: KeyboardEvent, id: string, x: number, y: number): void {
    const by = event.shiftKey ? 10 : 1;
    const [dx, dy] = arrowStep(event);
    if (event.key === 'Delete' || event.key === 'Backspace') removePin(session, id);
    else if (dx || dy) moveTo(id, x + dx * by, y + dy * by);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div class="layer" bind:this={layer}>
  {#each pins as { pin, inside, at, side } (pin.id)}
    {#if inside}
      <span
        class="square"
        style:left="{at.x}px"
        style:top="{at.y}px"
        style:width="{side}px"
        style:height="{side}px"
      ></span>
      <button
        class="pin mono"
        class:chosen={bench.pin === pin.id}
        data-pin={pin.id}
        style:left="{at.x}px"
        style:top="{at.y}px"
        aria-label={`${pin.name}, ${roleSigns[pin.role].title.toLowerCase()}`}
        title={`${pin.name} · ${roleSigns[pin.role].title}.${pin.picture === undefined ? ' Belongs to all pictures.' : ''} Drag or use the arrows to move it, Delete to remove it.`}
        onpointerdown={(event) => {
          if (event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          dragged = pin.id;
          bench.pin = pin.id;
        }}
        onpointermove={drag}
        onpointerup={() => {
          dragged = null;
          session.endGesture();
        }}
        onpointercancel={() => (dragged = null)}
        onfocus={() => (bench.pin = pin.id)}
        onkeydown={(event) => onkeydown(event, pin.id, pin.x, pin.y)}
        ><b>{roleSigns[pin.role].sign}</b><span>{pinMark(pin)}</span></button
      >
    {/if}
  {/each}
</div>

<style>
  .layer {
    position: absolute;
    inset: 0;
    pointer-events: none;
  }
  .square {
    position: absolute;
    translate: -50% -50%;
    border: 1px solid #fff;
    outline: 1px solid #000;
  }
  .pin {
    position: absolute;
    display: flex;
    align-items: center;
    gap: 4px;
    max-width: 96px;
    height: 22px;
    padding: 0 7px;
    translate: 6px -28px;
    border: 1.5px solid #fff;
    border-radius: 11px 11px 11px 2px;
    background: rgb(20 20 20 / 78%);
    box-shadow: 0 0 0 1px rgb(0 0 0 / 60%);
    color: #fff;
    font-size: 12px;
    line-height: 1;
    cursor: move;
    pointer-events: auto;
    touch-action: none;
  }
  .pin span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .chosen {
    border-color: var(--k-bone);
    background: var(--k-bone);
    color: #161616;
  }
</style>
