<script lang="ts">
  import type { EChartsType } from 'echarts/core';
  import { channelOf, modelOf, models } from '$core/colour';
  import type { Histogram } from '$core/measure/histogram';
  import { HISTOGRAM_BINS, type Range } from '$core/path/measure';
  import type { BenchState } from '../bench/bench.svelte';
  import { Measurer } from '../bench/measurer.svelte';
  import type { Session } from '../bench/session.svelte';
  import ClippedCount from '../work-pane/ClippedCount.svelte';
  import { told } from '../numbers';
  import { ink, whenIdle } from './chart';
  import { ChartPlace } from './chart-place.svelte';
  import ChartHost from './ChartHost.svelte';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const SETS = [
    ...models.map(({ id, title }) => ({ id: id as string, title })),
    { id: 'lum', title: 'Luminance' }
  ];
  const { layout } = $derived(bench);
  const ids = $derived(
    layout.histogramOf === 'lum' ? ['lum'] : modelOf(layout.histogramOf as never).channels.map((c) => c.id)
  );
  /** Line colours that a canvas can draw; the swatches of the channels. */
  const COLOURS: Record<string, string> = {
    'rgb.r': '#c4605a',
    'rgb.g': '#6fa562',
    'rgb.b': '#6b86c9',
    'lab.a': '#b96aa3',
    'lab.b': '#bfae55',
    'cmyk.c': '#5fa8b3',
    'cmyk.m': '#b96aa3',
    'cmyk.y': '#bfae55',
    'cmyk.k': '#a0a0a0'
  };

  /** From the lowest sky to well over the highest: so many σ of it. */
  const [UNDER, OVER] = [5, 25];
  const canZoom = $derived(bench.lift.can && bench.lift.seen !== null && layout.histogramOf === 'rgb');
  const range = $derived.by<Range | null>(() => {
    const skies = bench.lift.seen;
    if (!skies || !canZoom || !layout.histogramSky) return null;
    const low = Math.min(...skies.map(({ level, sigma }) => level - UNDER * sigma));
    const high = Math.max(...skies.map(({ level, sigma }) => level + OVER * sigma));
    return high > low ? [low, high] : null;
  });
  const near = new Measurer(() => range);
  const measurer = $derived(range ? near : bench.measurer);
  $effect(() => measurer.watch(ids));
  $effect(() => {
    if (range) near.point(bench.measured);
  });

  const place = new ChartPlace();

  /** Heights by count, in the logarithm where asked, as places of the chart: bin and height by turns. */
  function heights({ counts, below, above }: Histogram): Float64Array {
    const places = new Float64Array(2 * counts.length);
    // What lies beside a part of the values is not of it.
    const [first, last] = range ? [below, above] : [0, 0];
    const countAt = (i: number): number => counts[i] - (i === 0 ? first : i === counts.length - 1 ? last : 0);
    counts.forEach((_, i) =>
      places.set([i, layout.histogramLog ? Math.log10(1 + countAt(i)) : countAt(i)], 2 * i)
    );
    return places;
  }

  /** The largest height but for the ends. */
  const peak = (places: Float64Array): number =>
    places.subarray(2, -2).reduce((most, v, i) => (i % 2 ? Math.max(most, v) : most), 1);

  $effect(() => {
    const { histograms } = measurer;
    const drawn = place.chart;
    void layout.histogramLog;
    return whenIdle(() => draw(drawn, histograms));
  });

  const LAST = HISTOGRAM_BINS - 1;
  const percentAt = (part: number): string => {
    const [low, high] = range ?? [0, 1];
    return told(100 * (low + (high - low) * part), range ? 2 : 0);
  };

  function draw(chart: EChartsType | null, histograms: Measurer['histograms']): void {
    const found = ids.flatMap((id) => {
      const pair = histograms.get(id);
      return pair ? [{ id, before: heights(pair[0]), after: heights(pair[1]) }] : [];
    });
    if (!chart || found.length === 0) return;
    const line = {
      type: 'line' as const,
      dimensions: ['bin', 'height'],
      symbol: 'none',
      silent: true,
      animation: false,
      emphasis: { disabled: true }
    };
    chart.setOption(
      {
        animation: false,
        grid: { left: 6, right: 6, top: 6, bottom: 16 },
        xAxis: {
          type: 'value',
          min: 0,
          max: LAST,
          interval: HISTOGRAM_BINS / 4,
          axisLine: { lineStyle: { color: ink.line } },
          axisTick: { show: false },
          axisLabel: {
            color: ink.quiet,
            fontSize: 10,
            formatter: (v: number) => percentAt(v / LAST)
          },
          splitLine: { show: false }
        },
        yAxis: {
          type: 'value',
          show: false,
          min: 0,
          max: Math.max(...found.flatMap(({ before, after }) => [peak(before), peak(after)]))
        },
        series: found.flatMap(({ id, before, after }) => [
          {
            ...line,
            id: `${id} before`,
            data: before,
            lineStyle: { width: 0 },
            areaStyle: { color: COLOURS[id] ?? ink.before, opacity: 0.22 }
          },
          {
            ...line,
            id: `${id} after`,
            data: after,
            lineStyle: { width: 1.3, color: COLOURS[id] ?? ink.text }
          }
        ])
      },
      { replaceMerge: ['series'] }
    );
  }

  /** Channels whose ends are ends: where something can be clipped. */
  const clippable = $derived(
    ids.filter((id) => !['lab.a', 'lab.b', 'hsv.h', 'lch.c', 'lch.h', 'warm'].includes(id))
  );
</script>

<section class="histogram" aria-label="Histogram">
  <div class="choices">
    <select
      class="tool-choice"
      aria-label="Model of the histogram"
      value={layout.histogramOf}
      onchange={(event) => layout.set({ histogramOf: event.currentTarget.value })}
    >
      {#each SETS as { id, title } (id)}<option value={id}>{title}</option>{/each}
    </select>
    <button
      class="tool"
      aria-pressed={layout.histogramLog}
      title="Heights in the logarithm of the counts"
      onclick={() => layout.set({ histogramLog: !layout.histogramLog })}>log</button
    >
    {#if canZoom}
      <button
        class="tool"
        aria-pressed={layout.histogramSky}
        title="Only the values about the sky, as wide as the chart"
        onclick={() => layout.set({ histogramSky: !layout.histogramSky })}>sky</button
      >
    {/if}
    <span class="quiet" title="Before the step filled, after it as lines">in filled, out lines</span>
  </div>
  <ChartHost {place} />
  {#if clippable.length > 0}
    <ClippedCount {session} {bench} channels={clippable} names={clippable.map((id) => channelOf(id).sign)} />
  {/if}
</section>

<style>
  .histogram {
    display: flex;
    flex: 1 1 230px;
    flex-direction: column;
    min-width: 190px;
    overflow: hidden;
    padding: 4px 8px;
  }
  /* What has no room beside the rest stays away as a whole. */
  .choices {
    display: flex;
    flex: none;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px;
    height: 24px;
    overflow: hidden;
    white-space: nowrap;
  }
  .tool {
    height: 24px;
    font-size: 12px;
  }
  .quiet {
    font-size: 11px;
    line-height: 24px;
  }
</style>
