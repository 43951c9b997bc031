<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import { Newest } from '../bench/newest';
  import Eyedropper from 'carbon-icons-svelte/lib/Eyedropper.svelte';
  import Reset from 'carbon-icons-svelte/lib/Reset.svelte';
  import { channelOf, modelOf, readChannels, toReadout } from '$core/colour';
  import type { CurvePoint } from '$core/curve';
  import { actsOn } from '$core/document';
  import { curves as op } from '$core/ops/curves';
  import { swatch } from '../channel-colour';
  import { addedPoint, movedPoint } from '../graph/curve-points';
  import CurveGraph from '../graph/CurveGraph.svelte';
  import Amount from './Amount.svelte';
  import ChannelTabs from './ChannelTabs.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const STRAIGHT: readonly CurvePoint[] = [
    [0, 0],
    [1, 1]
  ];
  const params = $derived(paramsOf(op, step));
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

  function set(next: readonly CurvePoint[], label: string, gesture?: string): void {
    session.changeStep(
      label,
      (draft) => {
        const { curves } = paramsOf(op, draft);
        const plain = next.length === 2 && next.every(([x, y], i) => x === i && y === i);
        if (plain) delete curves[key];
        else curves[key] = next.map(([x, y]) => [x, y] as [number, number]);
      },
      gesture
    );
  }

  const BOUNDS = [-0.5, 1.5] as const;
  const move = (x: number, y: number): void =>
    set(movedPoint(points, chosenAt, x, y, BOUNDS), 'Move a curve point', `curve ${key} ${chosenAt}`);

  const newest = new Newest('the tone that was picked');
  const PICK = 'curve point';
  function pick(): void {
    bench.hand.pick({
      id: PICK,
      label: 'Click: a point on the curve at that tone',
      pick: (spot) => {
        newest.ask(async () => {
          const [rgb] = await bench.readInput([{ ...spot.onFrame, size: 5 }]);
          if (!rgb) return;
          const value = readChannels(rgb, session.cursor.encoding)[seen];
          const added = addedPoint(points, Math.min(1, Math.max(0, value)));
          ({ at } = added);
          if (added.points !== points) set(added.points, 'Add a curve point');
        });
      }
    });
  }
  $effect(() => () => {
    bench.hand.drop(PICK);
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
  <CurveGraph
    label="Curve"
    {points}
    bind:at={() => chosenAt, (v) => (at = v)}
    {pair}
    {colour}
    bounds={BOUNDS}
    told={(v) => shown(v).toFixed(1)}
    onchange={(next, label, gesture) => set(next, label, gesture && `curve ${key} ${gesture}`)}
    onend={() => session.endGesture()}
  />
  <div class="row">
    <button class="tool raised" aria-pressed={bench.hand.picking?.id === PICK} onclick={pick}
      ><Eyedropper size={16} /> Set on the picture</button
    >
    <button
      class="tool raised"
      disabled={!params.curves[key]}
      onclick={() => session.changeParams(op, 'Straighten a curve', (p) => delete p.curves[key])}
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
        grain={0.5}
        {colour}
        oninput={(v) => move(k ? points[chosenAt][0] : stored(v), k ? stored(v) : points[chosenAt][1])}
        onend={() => session.endGesture()}
      />
    {/each}
  {/key}
  <p class="quiet">
    Click to add a point, drag or use the arrows to move it, Delete or double-click to take it out.
  </p>
</div>

<style>
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
