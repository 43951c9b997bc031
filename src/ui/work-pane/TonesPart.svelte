<script lang="ts">
  import Reset from 'carbon-icons-svelte/lib/Reset.svelte';
  import { isAllTones, type Trapezoid } from '$core/blend/limits';
  import type { Histogram } from '$core/measure/histogram';
  import Tones from '../graph/Tones.svelte';
  import { placeOn } from '../graph/tones';

  type Side = 'under' | 'over';
  interface Props {
    sides: readonly { readonly key: Side; readonly title: string }[];
    tones: Readonly<Record<Side, Trapezoid>>;
    /** Histograms of luminance before and after. */
    pair: readonly [Histogram, Histogram] | undefined;
    onchange: (side: Side, tones: [number, number, number, number], gesture?: string) => void;
    onend: () => void;
  }
  let { sides, tones: given, pair, onchange, onend }: Props = $props();

  const [WIDTH, HEIGHT] = [256, 46];
  const NAMES = ['begins', 'is full', 'stays full until', 'ends'];

  let dragged: { side: Side; i: number } | null = null;

  function set(side: Side, i: number, value: number): void {
    const tones = [...given[side]] as [number, number, number, number];
    tones[i] = Math.round(Math.min(1, Math.max(0, value)) * 200) / 200;
    // The others give way, so that the four never fall.
    for (let k = i - 1; k >= 0; k--) tones[k] = Math.min(tones[k], tones[i]);
    for (let k = i + 1; k < 4; k++) tones[k] = Math.max(tones[k], tones[i]);
    onchange(side, tones, `${side} ${i}`);
  }

  function drag(event: PointerEvent, svg: SVGSVGElement): void {
    if (dragged) set(dragged.side, dragged.i, placeOn(svg, event).x / WIDTH);
  }

  function down(event: PointerEvent, side: Side): void {
    const svg = event.currentTarget as SVGSVGElement;
    svg.setPointerCapture(event.pointerId);
    const x = placeOn(svg, event).x / WIDTH;
    const tones = given[side];
    // Of handles that lie on each other, the one that can go where the pointer is.
    const nearest = tones.reduce((best, v, i) => {
      const [d, e] = [Math.abs(v - x), Math.abs(tones[best] - x)];
      return d < e - 1e-6 || (Math.abs(d - e) <= 1e-6 && x > v) ? i : best;
    }, 0);
    dragged = { side, i: nearest };
    set(side, nearest, x);
  }

  function release(): void {
    dragged = null;
    onend();
  }

  function nudge(event: KeyboardEvent, side: Side, i: number): void {
    const direction = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!direction) return;
    event.preventDefault();
    event.stopPropagation();
    set(side, i, given[side][i] + direction * (event.shiftKey ? 0.1 : 0.01));
  }

  const shape = ([a, b, c, d]: Trapezoid): string =>
    [
      [a, HEIGHT],
      [b, 0],
      [c, 0],
      [d, HEIGHT]
    ]
      .map(([x, y]) => `${x * WIDTH},${y}`)
      .join(' ');
</script>

{#each sides as { key, title } (key)}
  {@const tones = given[key]}
  <div class="side">
    <header>
      <span>{title}</span>
      <span class="mono">{tones.map((v) => Math.round(100 * v)).join(' – ')} %</span>
      <button
        class="tool"
        aria-label={`Open all: ${title}`}
        title="Open to all tones"
        disabled={isAllTones(tones)}
        onclick={() => onchange(key, [0, 0, 1, 1])}
      >
        <Reset size={16} />
      </button>
    </header>
    <svg
      viewBox={`-7 -7 ${WIDTH + 14} ${HEIGHT + 14}`}
      role="group"
      aria-label={title}
      onpointerdown={(event) => down(event, key)}
      onpointermove={(event) => drag(event, event.currentTarget)}
      onpointerup={release}
      onpointercancel={release}
    >
      <rect x="0" y="0" width={WIDTH} height={HEIGHT} fill="#161616" />
      <Tones {pair} width={WIDTH} height={HEIGHT} colour="#9a9a9a" />
      <polygon
        points={shape(tones)}
        fill="rgb(227 217 195 / 20%)"
        stroke="var(--k-bone)"
        stroke-width="1.5"
      />
      {#each tones as v, i (i)}
        <circle
          cx={v * WIDTH}
          cy={i === 0 || i === 3 ? HEIGHT : 0}
          r="5"
          fill="#161616"
          stroke="var(--k-bone)"
          stroke-width="1.5"
          role="slider"
          tabindex="0"
          aria-label={`${title}: ${NAMES[i]}`}
          aria-valuenow={Math.round(100 * v)}
          onkeydown={(event) => nudge(event, key, i)}
        />
      {/each}
    </svg>
  </div>
{/each}

<style>
  header {
    display: flex;
    align-items: center;
    gap: 8px;
    height: 26px;
    font-size: 12px;
  }
  header span:first-child {
    flex: 1;
  }
  header .mono {
    color: var(--k-text-quiet);
  }
  svg {
    display: block;
    width: 100%;
    touch-action: none;
    cursor: ew-resize;
  }
</style>
