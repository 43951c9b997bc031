<script lang="ts">
  import StepAmount from './StepAmount.svelte';
  import { paramsOf } from '$core/ops/op';
  import { Newest } from '../bench/newest';
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import Eyedropper from 'carbon-icons-svelte/lib/Eyedropper.svelte';
  import TrashCan from 'carbon-icons-svelte/lib/TrashCan.svelte';
  import { rgbOfLab, labOf } from '$core/measure/difference';
  import { cssColour } from '../channel-colour';
  import { bandAt, type HueBand, colour as op } from '$core/ops/colour';
  import { placeOn, tonePath } from '../graph/tones';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const [WIDTH, HEIGHT, STRIP] = [288, 72, 12];
  const MOST_BANDS = 24;
  const params = $derived(paramsOf(op, step));
  let at = $state(0);
  const chosen = $derived(params.bands[Math.min(at, params.bands.length - 1)] as HueBand | undefined);
  const index = $derived(Math.min(at, params.bands.length - 1));

  $effect(() => bench.measurer.watch(['lch.h']));
  const pair = $derived(bench.measurer.histograms.get('lch.h'));

  const hueColour = (hue: number): string => {
    const angle = (hue * Math.PI) / 180;
    return cssColour(rgbOfLab([66, 38 * Math.cos(angle), 38 * Math.sin(angle)], 'coded'));
  };
  const stops = Array.from({ length: 25 }, (_, i) => ({ at: i / 24, colour: hueColour(15 * i) }));

  const hump = (band: HueBand): string =>
    Array.from(
      { length: 145 },
      (_, i) => `${(i * WIDTH) / 144},${(HEIGHT - bandAt(band, 2.5 * i) * (HEIGHT - 6)).toFixed(1)}`
    ).join(' ');

  const turned = (hue: number): number => ((hue % 360) + 360) % 360;

  const everywhere = ['hue', 'saturation', 'vibrance', 'lightness'] as const;
  const inBand = ['centre', 'width', 'hue', 'saturation', 'lightness'] as const;

  function setBand(change: Partial<HueBand>, gesture: string): void {
    const i = index;
    session.changeParams(op, 'Band of hue', (p) => Object.assign(p.bands[i], change), `band ${i} ${gesture}`);
  }

  function add(centre: number): void {
    if (params.bands.length >= MOST_BANDS) return;
    session.changeParams(op, 'Add a band of hue', (p) => {
      p.bands.push({
        centre: Math.round(turned(centre)),
        width: 60,
        hue: 0,
        saturation: 0,
        lightness: 0
      });
    });
    at = params.bands.length - 1;
  }

  function remove(): void {
    const i = index;
    session.changeParams(op, 'Remove a band of hue', (p) => void p.bands.splice(i, 1));
    at = Math.max(0, i - 1);
  }

  let dragged: number | null = null;
  let offset = 0;
  function down(event: PointerEvent): void {
    const svg = event.currentTarget as SVGSVGElement;
    const hue = (placeOn(svg, event).x / WIDTH) * 360;
    const parts = params.bands.map((band) => bandAt(band, hue));
    const strongest = parts.indexOf(Math.max(0, ...parts));
    if (strongest < 0 || parts[strongest] === 0) return;
    svg.setPointerCapture(event.pointerId);
    at = strongest;
    dragged = strongest;
    offset = params.bands[strongest].centre - hue;
  }
  function drag(event: PointerEvent): void {
    if (dragged === null) return;
    const hue = (placeOn(event.currentTarget as SVGSVGElement, event).x / WIDTH) * 360;
    setBand({ centre: Math.round(turned(hue + offset)) }, 'centre');
  }
  function release(): void {
    dragged = null;
    session.endGesture();
  }

  const newest = new Newest('the colour that was picked');
  const PICK = 'band of hue';
  function pick(): void {
    bench.hand.pick({
      id: PICK,
      label: 'Click: the band of that colour',
      pick: (spot) => {
        newest.ask(async () => {
          const [rgb] = await bench.readInput([{ ...spot.onFrame, size: 7 }]);
          if (!rgb) return;
          const [, a, b] = labOf(rgb, session.cursor.encoding);
          const hue = turned((Math.atan2(b, a) * 180) / Math.PI);
          const parts = params.bands.map((band) => bandAt(band, hue));
          const strongest = parts.indexOf(Math.max(0, ...parts));
          if (strongest >= 0 && parts[strongest] > 0.5) at = strongest;
          else add(hue);
        });
      }
    });
  }
  $effect(() => () => {
    bench.hand.drop(PICK);
  });
</script>

<div class="panel">
  <h3>Everywhere</h3>
  {#each everywhere as key (key)}
    <StepAmount {session} {step} {op} path={[key]} name={key[0].toUpperCase() + key.slice(1)} />
  {/each}
  <h3>In bands of hue</h3>
  <svg
    viewBox={`0 0 ${WIDTH} ${HEIGHT + STRIP}`}
    role="group"
    aria-label="Bands over the picture’s hues"
    onpointerdown={down}
    onpointermove={drag}
    onpointerup={release}
    onpointercancel={release}
    ondblclick={(event) => add((placeOn(event.currentTarget, event).x / WIDTH) * 360)}
  >
    <defs>
      <linearGradient id="hues">
        {#each stops as { at: place, colour } (place)}<stop offset={place} stop-color={colour} />{/each}
      </linearGradient>
    </defs>
    <rect x="0" y="0" width={WIDTH} height={HEIGHT} fill="#161616" />
    {#if pair}<polygon points={tonePath(pair[0], WIDTH, HEIGHT, true)} fill="#4d4d4d" />{/if}
    {#each params.bands as band, i (i)}
      <polygon
        points={`0,${HEIGHT} ${hump(band)} ${WIDTH},${HEIGHT}`}
        fill={i === index ? 'rgb(227 217 195 / 24%)' : 'rgb(200 200 200 / 9%)'}
        stroke={i === index ? 'var(--k-bone)' : '#8a8a8a'}
        stroke-width={i === index ? 1.8 : 1}
      />
    {/each}
    <rect x="0" y={HEIGHT} width={WIDTH} height={STRIP} fill="url(#hues)" />
  </svg>
  <div class="row">
    <button class="tool raised" aria-pressed={bench.hand.picking?.id === PICK} onclick={pick}
      ><Eyedropper size={16} /> Pick a colour</button
    >
    <button class="tool raised" onclick={() => add(chosen ? chosen.centre + 60 : 30)}
      ><Add size={16} /> Band</button
    >
    <span class="grow"></span>
    <button
      class="tool"
      disabled={!chosen}
      title="Remove this band"
      aria-label="Remove this band"
      onclick={remove}><TrashCan size={16} /></button
    >
  </div>
  {#if chosen}
    {@const band = chosen}
    {#key index}
      {#each inBand as key (key)}
        {@const centre = key === 'centre' ? turned(band.centre) : undefined}
        <StepAmount
          {session}
          {step}
          {op}
          path={['bands', index, key]}
          name={`Band ${key}`}
          value={centre}
          neutral={centre}
        />
      {/each}
    {/key}
  {:else}
    <p class="quiet">No band yet. Pick a colour in the picture, or double-click on the strip.</p>
  {/if}
</div>

<style>
  h3 {
    margin: 6px 0 2px;
    font-weight: 600;
    font-size: 12px;
  }
  svg {
    display: block;
    width: 100%;
    touch-action: none;
    cursor: ew-resize;
  }
  .row {
    display: flex;
    gap: 6px;
    margin: 6px 0;
  }
  .grow {
    flex: 1;
  }
  p {
    font-size: 12px;
  }
</style>
