<script lang="ts">
  import type { Line } from '$core/measure/deming';
  import { told } from '../numbers';

  interface Props {
    /** What was found, each with the colour that it is drawn in. */
    lines: readonly { readonly line: Line; readonly colour: string; readonly name: string }[];
    /** What stands across and upright. */
    across: string;
    upright: string;
  }
  let { lines, across, upright }: Props = $props();

  const [WIDTH, HEIGHT, EDGE] = [260, 170, 4];
  /** So much of the samples lies within the plot on either side. */
  const SHOWN = 0.99;

  function reach(values: readonly number[]): readonly [number, number] {
    const sorted = [...values].sort((a, b) => a - b);
    const low = sorted[Math.floor((1 - SHOWN) * (sorted.length - 1))] ?? 0;
    const high = sorted[Math.ceil(SHOWN * (sorted.length - 1))] ?? 1;
    return high > low ? [low, high] : [low - 0.5, low + 0.5];
  }
  const points = $derived(lines.flatMap(({ line }) => line.points));
  const [left, right] = $derived(reach(points.map(({ x }) => x)));
  const [low, high] = $derived(reach(points.map(({ y }) => y)));
  const toX = $derived((x: number): number => EDGE + ((x - left) / (right - left)) * (WIDTH - 2 * EDGE));
  const toY = $derived(
    (y: number): number => HEIGHT - EDGE - ((y - low) / (high - low)) * (HEIGHT - 2 * EDGE)
  );
  const inside = (x: number, y: number): boolean => x >= left && x <= right && y >= low && y <= high;
  const dots = $derived((line: Line, out: boolean): string =>
    line.points
      .filter((p) => p.out === out && inside(p.x, p.y))
      .map(({ x, y }) => `M${toX(x).toFixed(1)},${toY(y).toFixed(1)}h0`)
      .join('')
  );
  const drawn = $derived(({ gain, offset }: Line): string =>
    [left, right].map((x, i) => `${i ? 'L' : 'M'}${toX(x)},${toY(offset + gain * x)}`).join('')
  );
</script>

<figure>
  <svg
    viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
    role="img"
    aria-label={`Samples of ${across} across and ${upright} upright, with the straight line of each; what was left out is dim`}
  >
    <rect width={WIDTH} height={HEIGHT} fill="#161616" />
    {#each lines as { line, name } (name)}
      <path d={dots(line, true)} stroke="#5a5a5a" stroke-width="2" stroke-linecap="round" />
    {/each}
    {#each lines as { line, colour, name } (name)}
      <path d={dots(line, false)} stroke={colour} stroke-width="2.4" stroke-linecap="round" />
    {/each}
    {#each lines as { line, colour, name } (name)}
      <path d={drawn(line)} stroke="#161616" stroke-width="3" />
      <path d={drawn(line)} stroke={colour} stroke-width="1.2" />
    {/each}
  </svg>
  <figcaption class="quiet">
    Across {across}, {told(100 * left, 2)} to {told(100 * right, 2)} %; upright {upright}, {told(
      100 * low,
      2
    )} to {told(100 * high, 2)} %. Dim dots were left out.
  </figcaption>
</figure>

<style>
  figure {
    margin: 0;
  }
  svg {
    display: block;
    width: 100%;
  }
  figcaption {
    margin-top: 4px;
    font-size: 12px;
  }
</style>
