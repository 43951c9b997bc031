<script lang="ts">
  import type { CurvePoint } from '$core/curve';
  import type { Histogram } from '$core/measure/histogram';
  import { arrowStep } from '../arrows';
  import { addedPoint, curveLine, movedPoint } from './curve-points';
  import Tones from './Tones.svelte';
  import { placeOn } from './tones';

  interface Props {
    label: string;
    points: readonly CurvePoint[];
    /** The point that is chosen. */
    at: number;
    /** Histograms before and after, to be seen behind the curve. */
    pair: readonly [Histogram, Histogram] | undefined;
    colour: string;
    height?: number;
    /** How far down and up a point may go. */
    bounds?: readonly [number, number];
    /** A value in its unit. */
    told?: (v: number) => string;
    onchange: (points: readonly CurvePoint[], label: string, gesture?: string) => void;
    onend: () => void;
  }
  let {
    label,
    points,
    at = $bindable(),
    pair,
    colour,
    height = 216,
    bounds = [0, 1],
    told = (v) => v.toFixed(2),
    onchange,
    onend
  }: Props = $props();

  const WIDTH = 256;
  const GRAB = 11;
  const curve = $derived(curveLine(points, WIDTH, height));
  let svg: SVGSVGElement | undefined = $state();
  let dragged = $state<number | null>(null);

  function move(i: number, x: number, y: number): void {
    onchange(movedPoint(points, i, x, y, bounds), 'Move a curve point', `${i}`);
  }

  function remove(i: number): void {
    if (points.length <= 2) return;
    onchange(
      points.filter((_, k) => k !== i),
      'Remove a curve point'
    );
    at = Math.max(0, i - 1);
  }

  function press(event: PointerEvent): void {
    if (!svg || event.button !== 0) return;
    svg.setPointerCapture(event.pointerId);
    const { x, y } = placeOn(svg, event);
    const near = points.findIndex(([px, py]) => Math.hypot(px * WIDTH - x, (1 - py) * height - y) < GRAB);
    if (near >= 0) at = near;
    else {
      const added = addedPoint(points, Math.min(1, Math.max(0, x / WIDTH)));
      ({ at } = added);
      onchange(movedPoint(added.points, at, x / WIDTH, 1 - y / height, bounds), 'Add a curve point');
    }
    dragged = at;
  }

  function drag(event: PointerEvent): void {
    if (dragged === null || !svg) return;
    const { x, y } = placeOn(svg, event);
    move(dragged, x / WIDTH, 1 - y / height);
  }

  function release(): void {
    dragged = null;
    onend();
  }

  function onkeydown(event: KeyboardEvent, i: number): void {
    const step = event.shiftKey ? 0.1 : 0.01;
    const [dx, down] = arrowStep(event);
    if (event.key === 'Delete' || event.key === 'Backspace') remove(i);
    else if (dx || down) move(i, points[i][0] + dx * step, points[i][1] - down * step);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<svg
  bind:this={svg}
  viewBox={`-7 -7 ${WIDTH + 14} ${height + 14}`}
  role="group"
  aria-label={label}
  onpointerdown={press}
  onpointermove={drag}
  onpointerup={release}
  onpointercancel={release}
>
  <rect x="0" y="0" width={WIDTH} {height} fill="#161616" />
  {#each [0.25, 0.5, 0.75] as part (part)}
    <path d={`M${part * WIDTH},0 V${height} M0,${part * height} H${WIDTH}`} stroke="#2c2c2c" />
  {/each}
  <Tones {pair} width={WIDTH} {height} {colour} />
  <path d={`M0,${height} L${WIDTH},0`} stroke="#454545" stroke-dasharray="3 4" />
  <polyline points={curve} fill="none" stroke="var(--k-bone)" stroke-width="2" />
  {#each points as [x, y], i (i)}
    <circle
      cx={x * WIDTH}
      cy={(1 - y) * height}
      r={i === at ? 5.5 : 4.5}
      fill={i === at ? 'var(--k-bone)' : '#161616'}
      stroke="var(--k-bone)"
      stroke-width="1.5"
      role="slider"
      tabindex="0"
      aria-label={`curve point ${i + 1}`}
      aria-valuenow={Math.round(y * 1000) / 1000}
      aria-valuetext={`${told(x)} to ${told(y)}`}
      onfocus={() => (at = i)}
      ondblclick={() => remove(i)}
      onkeydown={(event) => onkeydown(event, i)}
    />
  {/each}
</svg>

<style>
  svg {
    display: block;
    width: 100%;
    touch-action: none;
    cursor: crosshair;
  }
  circle {
    cursor: move;
  }
</style>
