<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import type { Step } from '$core/document';
  import { uncropped, type StraightenParams, straighten as op } from '$core/ops/straighten';
  import { pictureGeometry } from '$core/path/plan';
  import { innerRect, type Point } from '$core/raster/geometry';
  import { arrowStep } from '../arrows';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { onPicture, onView, over } from '../viewer/overlay';

  let { session, bench, step }: { session: Session; bench: BenchState; step: Step } = $props();

  const params = $derived(paramsOf(op, step));
  const { viewport } = $derived(bench);
  const before = $derived(pictureGeometry(session.cursor.head, session.cursor.stepsBefore));
  const whole = $derived(uncropped(params, before));
  const crop = $derived(params.crop ?? innerRect(whole));
  const at = (p: Point): Point => onView(viewport.placement, viewport.view, p);

  let layer: SVGSVGElement | undefined = $state();
  const place = (event: PointerEvent): Point =>
    onPicture(viewport.placement, viewport.view, over(layer!, event));

  /** Corners as they stand, or a little inside the picture to begin with. */
  const corners = $derived<readonly (readonly [number, number])[]>(
    params.corners ?? [
      [0.1 * before.width, 0.1 * before.height],
      [0.9 * before.width, 0.1 * before.height],
      [0.9 * before.width, 0.9 * before.height],
      [0.1 * before.width, 0.9 * before.height]
    ]
  );
  const NAMES = ['upper left', 'upper right', 'lower right', 'lower left'];

  let line = $state<{ from: Point; to: Point } | null>(null);
  let drag:
    | { kind: 'line' }
    | { kind: 'corner'; i: number }
    | { kind: 'crop'; edges: string; from: Point; crop: typeof crop }
    | null = null;

  function capture(event: PointerEvent): void {
    layer!.setPointerCapture(event.pointerId);
    event.stopPropagation();
  }

  function down(event: PointerEvent): void {
    if (event.button !== 0 || bench.hand.straighten !== 'level') return;
    capture(event);
    const from = place(event);
    line = { from, to: from };
    drag = { kind: 'line' };
  }

  function move(event: PointerEvent): void {
    if (!drag) return;
    const p = place(event);
    if (drag.kind === 'line' && line) line = { ...line, to: p };
    else if (drag.kind === 'corner') setCorner(drag.i, p);
    else if (drag.kind === 'crop') setCrop(drag.edges, p.x - drag.from.x, p.y - drag.from.y, drag.crop);
  }

  function up(): void {
    if (drag?.kind === 'line' && line) levelBy(line.from, line.to);
    drag = null;
    line = null;
    session.endGesture();
  }

  /** Turns the picture so that the line is level or upright, whichever is nearer. */
  function levelBy(from: Point, to: Point): void {
    const [dx, dy] = [to.x - from.x, to.y - from.y];
    if (Math.hypot(dx, dy) * viewport.placement.zoom < 12) return;
    const degrees = (Math.atan2(dy, dx) * 180) / Math.PI;
    const off = degrees - 90 * Math.round(degrees / 90);
    const angle = Math.round((params.angle - off) * 100) / 100;
    session.changeParams(op, 'Level by a line', (p) => (p.angle = Math.max(-180, Math.min(180, angle))));
  }

  function setCorner(i: number, p: Point): void {
    const round = (v: number): number => Math.round(v * 10) / 10;
    const next = corners.map(([x, y], k) => (k === i ? [round(p.x), round(p.y)] : [round(x), round(y)]));
    const one = (k: number): boolean => {
      const [[ax, ay], [bx, by], [cx, cy]] = [0, 1, 2].map((d) => next[(k + d) % 4]);
      return (bx - ax) * (cy - by) - (by - ay) * (cx - bx) > 1;
    };
    // A corner that would cross over stays where it was.
    if (![0, 1, 2, 3].every(one)) return;
    session.changeParams(
      op,
      'Set a corner',
      (p) => (p.corners = next as StraightenParams['corners']),
      `corner ${i}`
    );
  }

  function setCrop(edges: string, dx: number, dy: number, from: typeof crop): void {
    const { width, height } = whole;
    let [left, top, right, bottom] = [from.x, from.y, from.x + from.width, from.y + from.height];
    if (edges === 'all') {
      const x = Math.min(width - from.width, Math.max(0, Math.round(from.x + dx)));
      const y = Math.min(height - from.height, Math.max(0, Math.round(from.y + dy)));
      [left, top, right, bottom] = [x, y, x + from.width, y + from.height];
    } else {
      const clamp = (v: number, low: number, high: number): number =>
        Math.min(high, Math.max(low, Math.round(v)));
      if (edges.includes('w')) left = clamp(left + dx, 0, right - 8);
      if (edges.includes('e')) right = clamp(right + dx, left + 8, width);
      if (edges.includes('n')) top = clamp(top + dy, 0, bottom - 8);
      if (edges.includes('s')) bottom = clamp(bottom + dy, top + 8, height);
      const ratio = bench.cropRatio;
      if (ratio > 0) {
        // The side that was not dragged follows.
        const across = edges.includes('w') || edges.includes('e');
        if (across) {
          const h = Math.min(Math.round((right - left) / ratio), edges.includes('n') ? bottom : height - top);
          if (edges.includes('n')) top = bottom - h;
          else bottom = top + h;
          if (edges.includes('w')) left = right - Math.round(h * ratio);
          else right = left + Math.round(h * ratio);
        } else {
          const w = Math.min(Math.round((bottom - top) * ratio), width - left);
          right = left + w;
        }
      }
    }
    const next = { x: left, y: top, width: Math.max(1, right - left), height: Math.max(1, bottom - top) };
    session.changeParams(op, 'Crop', (p) => (p.crop = next), 'crop frame');
  }

  function nudgeCorner(event: KeyboardEvent, i: number): void {
    const by = event.shiftKey ? 10 : 1;
    const [dx, dy] = arrowStep(event);
    if (!dx && !dy) return;
    event.preventDefault();
    event.stopPropagation();
    setCorner(i, { x: corners[i][0] + dx * by, y: corners[i][1] + dy * by });
  }

  const frame = $derived({
    from: at(crop),
    to: at({ x: crop.x + crop.width, y: crop.y + crop.height })
  });
  const outline = $derived({ from: at({ x: 0, y: 0 }), to: at({ x: whole.width, y: whole.height }) });
  const handles = $derived([
    { edges: 'nw', x: frame.from.x, y: frame.from.y },
    { edges: 'n', x: (frame.from.x + frame.to.x) / 2, y: frame.from.y },
    { edges: 'ne', x: frame.to.x, y: frame.from.y },
    { edges: 'e', x: frame.to.x, y: (frame.from.y + frame.to.y) / 2 },
    { edges: 'se', x: frame.to.x, y: frame.to.y },
    { edges: 's', x: (frame.from.x + frame.to.x) / 2, y: frame.to.y },
    { edges: 'sw', x: frame.from.x, y: frame.to.y },
    { edges: 'w', x: frame.from.x, y: (frame.from.y + frame.to.y) / 2 }
  ]);
  const GRID = 8;
</script>

<svg
  bind:this={layer}
  class={bench.hand.straighten}
  role="application"
  aria-label="Straighten on the picture"
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointercancel={up}
>
  {#if bench.hand.straighten === 'level'}
    {#each Array.from({ length: GRID - 1 }, (_, i) => (i + 1) / GRID) as part (part)}
      {@const x = outline.from.x + part * (outline.to.x - outline.from.x)}
      {@const y = outline.from.y + part * (outline.to.y - outline.from.y)}
      <path
        d={`M${x},${outline.from.y} V${outline.to.y} M${outline.from.x},${y} H${outline.to.x}`}
        stroke="rgb(255 255 255 / 35%)"
      />
    {/each}
    {#if line}
      {@const a = at(line.from)}
      {@const b = at(line.to)}
      <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="#000" stroke-width="4" />
      <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="var(--k-bone)" stroke-width="2" />
    {/if}
  {:else if bench.hand.straighten === 'corners'}
    {@const points = corners.map(([x, y]) => at({ x, y }))}
    <polygon
      points={points.map(({ x, y }) => `${x},${y}`).join(' ')}
      fill="rgb(227 217 195 / 8%)"
      stroke="var(--k-bone)"
      stroke-width="1.5"
    />
    {#each points as { x, y }, i (i)}
      <circle
        cx={x}
        cy={y}
        r="8"
        fill="rgb(20 20 20 / 60%)"
        stroke="var(--k-bone)"
        stroke-width="2"
        role="button"
        tabindex="0"
        aria-label={`${NAMES[i]} corner`}
        onpointerdown={(event) => {
          capture(event);
          drag = { kind: 'corner', i };
        }}
        onkeydown={(event) => nudgeCorner(event, i)}
      />
    {/each}
  {:else}
    <path
      d={`M0,0 H9999 V9999 H0 Z M${frame.from.x},${frame.from.y} V${frame.to.y} H${frame.to.x} V${frame.from.y} Z`}
      fill="rgb(20 20 20 / 66%)"
      fill-rule="evenodd"
      pointer-events="none"
    />
    <rect
      class="move"
      role="presentation"
      x={frame.from.x}
      y={frame.from.y}
      width={Math.max(0, frame.to.x - frame.from.x)}
      height={Math.max(0, frame.to.y - frame.from.y)}
      fill="transparent"
      stroke="var(--k-bone)"
      stroke-width="1.5"
      onpointerdown={(event) => {
        capture(event);
        drag = { kind: 'crop', edges: 'all', from: place(event), crop };
      }}
    />
    {#each handles as { edges, x, y } (edges)}
      <rect
        class={edges}
        role="presentation"
        x={x - 6}
        y={y - 6}
        width="12"
        height="12"
        fill="var(--k-bone)"
        stroke="#161616"
        onpointerdown={(event) => {
          capture(event);
          drag = { kind: 'crop', edges, from: place(event), crop };
        }}
      />
    {/each}
  {/if}
</svg>

<style>
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    touch-action: none;
  }
  .level {
    cursor: crosshair;
  }
  circle,
  .move {
    cursor: move;
  }
  .n,
  .s {
    cursor: ns-resize;
  }
  .e,
  .w {
    cursor: ew-resize;
  }
  .nw,
  .se {
    cursor: nwse-resize;
  }
  .ne,
  .sw {
    cursor: nesw-resize;
  }
</style>
