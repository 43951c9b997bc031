<script module lang="ts">
  import { paramsOf } from '$core/ops/op';
  import { type StraightenParams, straighten as op } from '$core/ops/straighten';

  const RATIOS = [
    { id: 'free', title: 'Free', ratio: 0 },
    { id: 'own', title: 'As the picture', ratio: -1 },
    { id: '1', title: '1 : 1', ratio: 1 },
    { id: '5/4', title: '5 : 4', ratio: 5 / 4 },
    { id: '4/3', title: '4 : 3', ratio: 4 / 3 },
    { id: '3/2', title: '3 : 2', ratio: 3 / 2 },
    { id: '16/9', title: '16 : 9', ratio: 16 / 9 },
    { id: '4/5', title: '4 : 5', ratio: 4 / 5 },
    { id: '2/3', title: '2 : 3', ratio: 2 / 3 }
  ];

  /** The proportions that a crop has, to half a pixel; free where it has none of those. */
  function ratioOf(crop: StraightenParams['crop']): string {
    const found = RATIOS.find(
      ({ ratio }) => ratio > 0 && crop && Math.abs(crop.width / ratio - crop.height) <= 0.5
    );
    return found?.id ?? 'free';
  }
</script>

<script lang="ts">
  import StepAmount from './StepAmount.svelte';
  import { Select, SelectItem } from 'carbon-components-svelte';
  import Reset from 'carbon-icons-svelte/lib/Reset.svelte';
  import { innerRect } from '$core/raster/geometry';
  import { pictureGeometry } from '$core/path/plan';
  import { uncropped } from '$core/ops/straighten';
  import type { StraightenTool } from '../bench/hand.svelte';
  import { arrowGroup } from '../shell/arrow-group';
  import Amount from './Amount.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const params = $derived(paramsOf(op, step));
  const tools: { id: StraightenTool; title: string; says: string }[] = [
    {
      id: 'level',
      title: 'Level',
      says: 'Drag a line on the picture along what should be upright or level.'
    },
    { id: 'corners', title: 'Corners', says: 'Put the four corners on what should be an upright rectangle.' },
    { id: 'crop', title: 'Crop', says: 'Drag the frame, its edges and corners.' }
  ];
  const before = $derived(pictureGeometry(session.cursor.head, session.cursor.stepsBefore));
  const whole = $derived(uncropped(params, before));
  const crop = $derived(params.crop ?? innerRect(whole));
  /** The proportions that were chosen here; until then those that the crop has. */
  let chosen = $state<string | null>(null);
  const ratio = $derived(chosen ?? ratioOf(params.crop));
  $effect(() => {
    const found = RATIOS.find((r) => r.id === ratio)!.ratio;
    bench.cropRatio = found < 0 ? before.width / before.height : found;
  });
  /** The largest crop without empty corners, in the proportions chosen; null, of the canvas's own, where none are. */
  const largest = (of: Pick<StraightenParams, 'angle' | 'corners'>): StraightenParams['crop'] =>
    ratio === 'free' ? null : innerRect(uncropped(of, before), bench.cropRatio);
  const sameCrop = (a: StraightenParams['crop'], b: StraightenParams['crop']): boolean =>
    JSON.stringify(a && [a.x, a.y, a.width, a.height]) === JSON.stringify(b && [b.x, b.y, b.width, b.height]);

  $effect(() => () => {
    bench.cropRatio = 0;
  });

  /** A quarter turn; the crop is made anew, as it would lie otherwise. */
  function turn(label: string, by: number): void {
    const turned = params.angle + by;
    const angle = turned > 180 ? turned - 360 : turned < -180 ? turned + 360 : turned;
    const next = largest({ ...params, angle });
    session.changeStep(label, (d) => Object.assign(d.params, { angle, crop: next }));
  }

  /** One number of the crop; with proportions chosen, its other side goes with it. */
  function setSide(key: 'x' | 'y' | 'width' | 'height', value: number): void {
    const next = { x: crop.x, y: crop.y, width: crop.width, height: crop.height, [key]: value };
    const proportions = bench.cropRatio;
    if (proportions && key === 'width') next.height = Math.max(1, Math.round(value / proportions));
    if (proportions && key === 'height') next.width = Math.max(1, Math.round(value * proportions));
    setCrop(next, `crop ${key}`);
  }

  function setCrop(next: StraightenParams['crop'], gesture?: string): void {
    session.changeParams(op, 'Crop', (p) => (p.crop = next), gesture);
  }

  function setRatio(id: string): void {
    chosen = id;
    const found = RATIOS.find((r) => r.id === id)!.ratio;
    bench.cropRatio = found < 0 ? before.width / before.height : found;
    if (!bench.cropRatio) return;
    // The largest of these proportions about the middle of the crop as it is.
    const width = Math.round(Math.min(crop.width, crop.height * bench.cropRatio));
    const height = Math.max(1, Math.round(width / bench.cropRatio));
    setCrop({
      x: Math.round(crop.x + (crop.width - width) / 2),
      y: Math.round(crop.y + (crop.height - height) / 2),
      width: Math.max(1, width),
      height
    });
  }
</script>

<div class="panel">
  <div class="tabs" role="radiogroup" {@attach arrowGroup} aria-label="What to set">
    {#each tools as { id, title } (id)}
      <button
        class="tool raised"
        role="radio"
        aria-checked={bench.hand.straighten === id}
        onclick={() => bench.hand.straightenBy(id)}>{title}</button
      >
    {/each}
  </div>
  <p class="quiet">{tools.find((t) => t.id === bench.hand.straighten)?.says}</p>
  {#if bench.hand.straighten === 'level'}
    <StepAmount {session} {step} {op} path={['angle']} name="Angle" />
    <div class="row">
      <button class="tool raised" onclick={() => turn('Quarter turn left', -90)}>90° left</button>
      <button class="tool raised" onclick={() => turn('Quarter turn right', 90)}>90° right</button>
    </div>
  {:else if bench.hand.straighten === 'corners'}
    <button
      class="tool raised"
      disabled={!params.corners}
      onclick={() => session.changeParams(op, 'Corners as they were', (p) => (p.corners = null))}
      ><Reset size={16} /> Corners as they were</button
    >
  {:else}
    <Select
      size="sm"
      labelText="Proportions"
      selected={ratio}
      on:update={({ detail }) => setRatio(String(detail))}
    >
      {#each RATIOS as { id, title } (id)}<SelectItem value={id} text={title} />{/each}
    </Select>
    <div class="space"></div>
    {#each ['x', 'y', 'width', 'height'] as const as key (key)}
      <Amount
        label={key}
        name={`Crop ${key}`}
        unit="px"
        value={crop[key]}
        neutral={innerRect(whole)[key]}
        min={key === 'width' || key === 'height' ? 1 : 0}
        max={key === 'x' || key === 'width' ? whole.width : whole.height}
        digits={0}
        oninput={(v) => setSide(key, v)}
        onend={() => session.endGesture()}
      />
    {/each}
    <button
      class="tool raised"
      disabled={sameCrop(params.crop, largest(params))}
      onclick={() => setCrop(largest(params))}><Reset size={16} /> Largest without empty corners</button
    >
  {/if}
  <p class="quiet mono">{crop.width} × {crop.height} pixels</p>
</div>

<style>
  .tabs {
    display: grid;
    grid-template-columns: 1fr 1fr 1fr;
    gap: 6px;
  }
  [aria-checked='true'] {
    background: #3a3a3a;
    color: var(--k-bone);
  }
  .row {
    display: flex;
    gap: 6px;
    margin-top: 6px;
  }
  .space {
    height: 8px;
  }
  p {
    margin: 8px 0;
    font-size: 12px;
  }
</style>
