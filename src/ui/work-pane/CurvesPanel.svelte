<script lang="ts">
  import Eyedropper from 'carbon-icons-svelte/lib/Eyedropper.svelte';
  import Reset from 'carbon-icons-svelte/lib/Reset.svelte';
  import { channelOf, modelOf, readChannels, toReadout } from '$core/colour';
  import { makeCurve, readCurve, type CurvePoint } from '$core/curve';
  import { actsOn } from '$core/document';
  import type { CurvesParams } from '$core/ops/curves';
  import { swatch } from '../channel-colour';
  import Tones from '../graph/Tones.svelte';
  import { placeOn } from '../graph/tones';
  import Amount from './Amount.svelte';
  import ChannelTabs from './ChannelTabs.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const [WIDTH, HEIGHT] = [256, 216];
  const STRAIGHT: readonly CurvePoint[] = [
    [0, 0],
    [1, 1]
  ];
  const params = $derived(step.params as CurvesParams);
  const on = $derived(actsOn(step));
  const channels = $derived(modelOf(on.model).channels.filter((c) => on.channels.includes(c.letter)));
  const all = $derived(on.model === 'rgb');
  let chosen = $state('');
  const key = $derived(
    (chosen === 'all' && all) || channels.some((c) => c.letter === chosen)
      ? chosen
      : all
        ? 'all'
        : channels[0].letter
  );
  const seen = $derived(key === 'all' ? 'lum' : channels.find((c) => c.letter === key)!.id);
  const colour = $derived(key === 'all' ? '#e0e0e0' : swatch(seen));
  const points = $derived<readonly CurvePoint[]>(params.curves[key] ?? STRAIGHT);
  let at = $state(0);
  const chosenAt = $derived(Math.min(at, points.length - 1));
  /** A point's values in the unit that its channel is read out in. */
  const readout = $derived(channelOf(seen).readout);

  $effect(() => bench.measurer.watch([seen]));
  const pair = $derived(bench.measurer.histograms.get(seen));
  $effect(() => {
    if (key !== 'all') bench.channel = seen;
  });

  const curve = $derived.by(() => {
    const ready = makeCurve(points);
    return Array.from({ length: 129 }, (_, i) => {
      const x = i / 128;
      return `${(x * WIDTH).toFixed(1)},${((1 - readCurve(ready, x)) * HEIGHT).toFixed(1)}`;
    }).join(' ');
  });

  function set(next: readonly CurvePoint[], label: string, gesture?: string): void {
    session.changeStep(
      label,
      (draft) => {
        const { curves } = draft.params as CurvesParams;
        const plain = next.length === 2 && next.every(([x, y], i) => x === i && y === i);
        if (plain) delete curves[key];
        else curves[key] = next.map(([x, y]) => [x, y] as [number, number]);
      },
      gesture
    );
  }

  const GAP = 0.004;
  const rounded = (v: number): number => Math.round(v * 1e4) / 1e4;

  /** Moves a point, between its neighbours. */
  function move(i: number, x: number, y: number): void {
    const low = i > 0 ? points[i - 1][0] + GAP : 0;
    const high = i < points.length - 1 ? points[i + 1][0] - GAP : 1;
    const inside: CurvePoint = [
      rounded(Math.min(high, Math.max(low, x))),
      rounded(Math.min(1.5, Math.max(-0.5, y)))
    ];
    set(
      points.map((p, k) => (k === i ? inside : p)),
      'Move a curve point',
      `curve ${key} ${i}`
    );
  }

  /** Puts a point on the curve at an input value; gives its place in the list. */
  function add(x: number): number {
    const near = points.findIndex(([px]) => Math.abs(px - x) < 3 * GAP);
    if (near >= 0) return near;
    const y = readCurve(makeCurve(points), x);
    const next = [...points, [rounded(x), rounded(y)] as CurvePoint].sort((a, b) => a[0] - b[0]);
    set(next, 'Add a curve point');
    return next.findIndex(([px]) => px === rounded(x));
  }

  function remove(i: number): void {
    if (points.length <= 2) return;
    set(
      points.filter((_, k) => k !== i),
      'Remove a curve point'
    );
    at = Math.max(0, i - 1);
  }

  let svg: SVGSVGElement | undefined = $state();
  let dragged = $state<number | null>(null);

  function down(event: PointerEvent): void {
    if (!svg || event.button !== 0) return;
    svg.setPointerCapture(event.pointerId);
    const { x, y } = placeOn(svg, event);
    const near = points.findIndex(([px, py]) => Math.hypot(px * WIDTH - x, (1 - py) * HEIGHT - y) < 11);
    at = near >= 0 ? near : add(Math.min(1, Math.max(0, x / WIDTH)));
    dragged = at;
    if (near < 0) move(at, x / WIDTH, 1 - y / HEIGHT);
  }

  function drag(event: PointerEvent): void {
    if (dragged === null || !svg) return;
    const { x, y } = placeOn(svg, event);
    move(dragged, x / WIDTH, 1 - y / HEIGHT);
  }

  function release(): void {
    dragged = null;
    session.endGesture();
  }

  function onkeydown(event: KeyboardEvent, i: number): void {
    const step = event.shiftKey ? 0.05 : 0.005;
    const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[
      event.key
    ] ?? [0, 0];
    if (event.key === 'Delete' || event.key === 'Backspace') remove(i);
    else if (dx || dy) move(i, points[i][0] + dx * step, points[i][1] + dy * step);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  const PICK = 'curve point';
  function pick(): void {
    bench.togglePicking({
      id: PICK,
      label: 'Click: a point on the curve at that tone',
      pick: (spot) => {
        void bench.readInput([{ ...spot.onFrame, size: 5 }]).then(([rgb]) => {
          if (!rgb) return;
          const value = readChannels(rgb[0], rgb[1], rgb[2])[seen];
          at = add(Math.min(1, Math.max(0, value)));
        });
      }
    });
  }
  $effect(() => () => {
    if (bench.picking?.id === PICK) bench.picking = null;
  });

  const shown = (v: number): number => toReadout({ readout } as never, v);
  const stored = (v: number): number => (v - readout.offset) / readout.scale;
</script>

<div class="panel">
  <ChannelTabs
    {channels}
    {all}
    set={Object.keys(params.curves)}
    label="Channel of the curve"
    bind:value={() => key, (v) => (chosen = v)}
  />
  <svg
    bind:this={svg}
    viewBox={`-7 -7 ${WIDTH + 14} ${HEIGHT + 14}`}
    role="group"
    aria-label="Curve"
    onpointerdown={down}
    onpointermove={drag}
    onpointerup={release}
    onpointercancel={release}
  >
    <rect x="0" y="0" width={WIDTH} height={HEIGHT} fill="#161616" />
    {#each [0.25, 0.5, 0.75] as part (part)}
      <path d={`M${part * WIDTH},0 V${HEIGHT} M0,${part * HEIGHT} H${WIDTH}`} stroke="#2c2c2c" />
    {/each}
    <Tones {pair} width={WIDTH} height={HEIGHT} {colour} />
    <path d={`M0,${HEIGHT} L${WIDTH},0`} stroke="#454545" stroke-dasharray="3 4" />
    <polyline points={curve} fill="none" stroke="var(--k-bone)" stroke-width="2" />
    {#each points as [x, y], i (i)}
      <circle
        cx={x * WIDTH}
        cy={(1 - y) * HEIGHT}
        r={i === chosenAt ? 5.5 : 4.5}
        fill={i === chosenAt ? 'var(--k-bone)' : '#161616'}
        stroke="var(--k-bone)"
        stroke-width="1.5"
        role="slider"
        tabindex="0"
        aria-label={`curve point ${i + 1}`}
        aria-valuenow={Math.round(y * 1000) / 1000}
        aria-valuetext={`${shown(x).toFixed(1)} to ${shown(y).toFixed(1)}`}
        onfocus={() => (at = i)}
        ondblclick={() => remove(i)}
        onkeydown={(event) => onkeydown(event, i)}
      />
    {/each}
  </svg>
  <div class="row">
    <button class="tool raised" aria-pressed={bench.picking?.id === PICK} onclick={pick}
      ><Eyedropper size={16} /> Set on the picture</button
    >
    <button
      class="tool raised"
      disabled={!params.curves[key]}
      onclick={() =>
        session.changeStep('Straighten a curve', (d) => delete (d.params as CurvesParams).curves[key])}
      ><Reset size={16} /> Straight</button
    >
  </div>
  {#key `${key} ${chosenAt}`}
    {#each ['in', 'out'] as const as side, k (side)}
      <Amount
        label={side}
        name={`Point ${side}`}
        unit={readout.unit === '%' ? '%' : readout.unit === '°' ? '°' : ''}
        value={shown(points[chosenAt][k])}
        neutral={shown(points[chosenAt][0])}
        min={shown(0)}
        max={shown(1)}
        least={k ? shown(-0.5) : shown(0)}
        most={k ? shown(1.5) : shown(1)}
        step={0.5}
        {colour}
        oninput={(v) =>
          move(chosenAt, k ? points[chosenAt][0] : stored(v), k ? stored(v) : points[chosenAt][1])}
        onend={() => session.endGesture()}
      />
    {/each}
  {/key}
  <p class="quiet">
    Click to add a point, drag or use the arrows to move it, Delete or double-click to take it out.
  </p>
</div>

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
  .row {
    display: flex;
    gap: 6px;
    margin: 6px 0;
  }
  p {
    margin: 6px 0 0;
    font-size: 12px;
  }
</style>
