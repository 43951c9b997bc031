<script lang="ts">
  import { controlAt, type Control } from '$core/ops/controls';
  import StepAmount from './StepAmount.svelte';
  import { paramsOf } from '$core/ops/op';
  import { Toggle } from 'carbon-components-svelte';
  import { channelOf, modelOf, percent, toReadout } from '$core/colour';
  import { actsOn } from '$core/document';
  import { plainLevels, type LevelsOf, levels as op } from '$core/ops/levels';
  import { swatch } from '../channel-colour';
  import Tones from '../graph/Tones.svelte';
  import { told } from '../numbers';
  import { placeOn } from '../graph/tones';
  import Amount from './Amount.svelte';
  import ChannelTabs from './ChannelTabs.svelte';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';

  let { session, bench, step }: PanelProps = $props();

  const [WIDTH, HEIGHT, HANDLES] = [256, 110, 14];
  const params = $derived(paramsOf(op, step));
  const on = $derived(actsOn(step));
  const channels = $derived(modelOf(on.model).channels.filter((c) => on.channels.includes(c.letter)));
  let chosen = $state('all');
  const key = $derived(chosen === 'all' || channels.some((c) => c.letter === chosen) ? chosen : 'all');
  /** The channel whose histogram stands behind; luminance for all of RGB. */
  const seen = $derived(
    key === 'all' ? (on.model === 'rgb' ? 'lum' : channels[0].id) : channels.find((c) => c.letter === key)!.id
  );
  const of = $derived<LevelsOf>(params.channels[key] ?? plainLevels);
  const colour = $derived(key === 'all' ? '#d8d8d8' : swatch(seen));
  /** Tones in the unit that their channel is read out in; per cent for all of a model together. */
  const readout = $derived(key === 'all' ? percent : channelOf(seen).readout);
  const shown = (v: number): number => v * readout.scale + readout.offset;
  const stored = (v: number): number => (v - readout.offset) / readout.scale;

  $effect(() => bench.measurer.watch([seen]));
  const pair = $derived(bench.measurer.histograms.get(seen));
  $effect(() => {
    if (key !== 'all') bench.channel = seen;
  });

  /** What the picture gave to a step that takes its ends from it. */
  const solving = solvedNumbers<{ levels: readonly LevelsOf[] }>(
    () => bench,
    'what the levels solve',
    () => params.auto !== null
  );
  const solved = $derived(solving.value?.levels ?? null);

  function set(part: keyof LevelsOf, value: number, gesture?: string): void {
    session.changeStep(
      `Levels: ${controls[part].label}`,
      (draft) => {
        const p = paramsOf(op, draft);
        const next = { ...(p.channels[key] ?? plainLevels), [part]: value };
        if (Math.abs(next.white - next.black) >= 0.002) p.channels[key] = next;
      },
      gesture ?? `levels ${key} ${part}`
    );
  }

  const parts = ['black', 'mid', 'white', 'outBlack', 'outWhite'] as const;
  const controls = Object.fromEntries(
    parts.map((part) => [part, controlAt(op.params, ['channels', 'all', part])])
  ) as Record<keyof LevelsOf, Control>;
  const asItIs = (v: number): number => v;

  function freeze(): void {
    const found = solved;
    if (!found) return;
    session.changeStep('Freeze levels', (draft) => {
      const p = paramsOf(op, draft);
      channels.forEach((c, i) => (p.channels[c.letter] = { ...found[i] }));
      p.auto = null;
    });
  }

  let dragging = $state<'black' | 'mid' | 'white' | null>(null);
  let svg: SVGSVGElement | undefined = $state();
  /** The handle of the middle stands where the curve gives one half. */
  const middle = $derived(of.black + (of.white - of.black) * 0.5 ** of.mid);

  function grab(part: 'black' | 'mid' | 'white', event: PointerEvent): void {
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    dragging = part;
    showClipped(part);
  }

  function showClipped(part: 'black' | 'mid' | 'white' | null): void {
    const clipped = key === 'all' ? channels.map((c) => c.id) : [seen];
    bench.hand.look(
      part === 'black' ? { clipped, ends: 'low' } : part === 'white' ? { clipped, ends: 'high' } : null
    );
  }

  function drag(event: PointerEvent): void {
    if (!dragging || !svg) return;
    const x = placeOn(svg, event).x / WIDTH;
    if (dragging === 'mid') {
      const t = Math.min(0.98, Math.max(0.02, (x - of.black) / (of.white - of.black)));
      set('mid', Math.round((100 * Math.log(t)) / Math.log(0.5)) / 100);
    } else set(dragging, Math.round(Math.min(1, Math.max(0, x)) * 1000) / 1000);
  }

  function release(): void {
    dragging = null;
    bench.hand.look(null);
    session.endGesture();
  }

  function nudge(part: 'black' | 'mid' | 'white', event: KeyboardEvent): void {
    const direction = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!direction) return;
    event.preventDefault();
    event.stopPropagation();
    const by = direction * (event.shiftKey ? 0.1 : 0.01);
    set(part, part === 'mid' ? Math.max(0.05, of.mid - by) : of[part] + by);
  }

  const handles = $derived([
    { part: 'black' as const, at: of.black, fill: '#111' },
    { part: 'mid' as const, at: middle, fill: '#888' },
    { part: 'white' as const, at: of.white, fill: '#f4f4f4' }
  ]);
</script>

<div class="panel">
  <ChannelTabs
    {channels}
    all
    set={Object.keys(params.channels)}
    label="Channel of the levels"
    bind:value={chosen}
  />
  <svg
    bind:this={svg}
    viewBox={`-8 0 ${WIDTH + 16} ${HEIGHT + HANDLES}`}
    role="group"
    aria-label="Levels over the histogram"
    onpointermove={drag}
    onpointerup={release}
    onpointercancel={release}
  >
    <rect x="0" y="0" width={WIDTH} height={HEIGHT} fill="#161616" />
    <Tones {pair} width={WIDTH} height={HEIGHT} {colour} />
    {#each handles as { part, at, fill } (part)}
      {@const x = Math.min(1, Math.max(0, at)) * WIDTH}
      {#if !params.auto || part === 'mid'}
        <line
          x1={x}
          x2={x}
          y1="0"
          y2={HEIGHT}
          stroke="#9a9a9a"
          stroke-dasharray={part === 'mid' ? '2 3' : undefined}
        />
        <path
          d={`M${x},${HEIGHT} l7,${HANDLES - 1} h-14 z`}
          {fill}
          stroke="#9a9a9a"
          role="slider"
          tabindex="0"
          aria-label={`${controls[part].label} point`}
          aria-valuenow={Math.round((part === 'mid' ? of.mid : of[part]) * 1000) / 1000}
          onpointerdown={(event) => grab(part, event)}
          onkeydown={(event) => nudge(part, event)}
          onfocus={() => showClipped(part)}
          onblur={() => bench.hand.look(null)}
        />
      {/if}
    {/each}
  </svg>
  <div class="ends">
    <Toggle
      size="sm"
      hideLabel
      labelText="Ends from the picture"
      labelA="Ends from the picture"
      labelB="Ends from the picture"
      toggled={params.auto !== null}
      on:toggle={({ detail }) => {
        if (detail.toggled === (params.auto !== null)) return;
        session.changeParams(op, 'Levels by ends', (p) => {
          p.auto = detail.toggled ? { clip: 0.1 } : null;
        });
      }}
    />
  </div>
  {#if params.auto}
    <StepAmount {session} {step} {op} path={['auto', 'clip']} name="Levels clip" neutral={0.1} />
    {#if solved}
      <table class="mono found" aria-label="Ends found in the picture">
        <tbody>
          {#each channels as c, i (c.id)}
            <tr>
              <th><span class="dot" style:background={swatch(c.id)}></span>{c.sign}</th>
              {#each [solved[i].black, 0, solved[i].white, 1] as tone, t (t)}
                <td
                  >{t % 2 ? '→ ' : ''}{told(toReadout(c, tone), c.readout.digits)}{t % 2
                    ? ''
                    : ` ${c.readout.unit}`}</td
                >
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
      <button class="tool raised" onclick={freeze}>Freeze these numbers</button>
    {/if}
  {/if}
  {#each parts as part (part)}
    {#if !params.auto || !['black', 'white'].includes(part)}
      {@const control = controls[part]}
      {@const told = part === 'mid' ? asItIs : shown}
      <Amount
        {...control}
        name={`${key === 'all' ? 'all' : seen} ${control.label}`}
        unit={part === 'mid' ? '' : readout.unit}
        value={told(of[part])}
        neutral={told(control.usual)}
        min={told(control.min)}
        max={told(control.max)}
        least={told(control.least)}
        most={told(control.most)}
        step={control.step ?? 1}
        grain={control.step ?? 0.5}
        {colour}
        oninput={(v) => set(part, part === 'mid' ? v : stored(v))}
        onend={() => session.endGesture()}
      />
    {/if}
  {/each}
</div>

<style>
  svg {
    display: block;
    width: 100%;
    touch-action: none;
  }
  .ends {
    margin: 8px 0;
  }
  path {
    cursor: ew-resize;
  }
</style>
