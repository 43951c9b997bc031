<script lang="ts">
  import type { EChartsType } from 'echarts/core';
  import { labOf } from '$core/measure/difference';
  import { DENSITY_CELLS, DENSITY_REACH } from '$core/path/measure';
  import type { BenchState } from '../bench/bench.svelte';
  import { roleSigns } from '../bench/pins';
  import type { Session } from '../bench/session.svelte';
  import { PinReadings, type PinValues } from './pin-readings.svelte';
  import { ink, whenIdle } from './chart';
  import { ChartPlace } from './chart-place.svelte';
  import ChartHost from './ChartHost.svelte';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const reader = new PinReadings();
  $effect(() => reader.point(session, bench));
  // The density comes with the two of them.
  $effect(() => bench.measurer.watch(['lab.a', 'lab.b']));

  const place = new ChartPlace();

  /** The density as a small picture: before in grey, after in bone, by the logarithm of the counts. */
  function densityImage(before: Uint32Array, after: Uint32Array): HTMLCanvasElement {
    const canvas = document.createElement('canvas');
    canvas.width = DENSITY_CELLS;
    canvas.height = DENSITY_CELLS;
    const context = canvas.getContext('2d')!;
    const image = context.createImageData(DENSITY_CELLS, DENSITY_CELLS);
    const peak = (counts: Uint32Array): number => counts.reduce((most, v) => Math.max(most, v), 1);
    const most = Math.log1p(Math.max(peak(before), peak(after)));
    for (let i = 0, at = 0; i < after.length; i++, at += 4) {
      const b = 22 + (60 * Math.log1p(before[i])) / most;
      const a = Math.log1p(after[i]) / most;
      image.data[at] = b + 190 * a;
      image.data[at + 1] = b + 180 * a;
      image.data[at + 2] = b + 150 * a;
      image.data[at + 3] = 255;
    }
    context.putImageData(image, 0, 0);
    return canvas;
  }

  /** Of what was measured last; drawn anew only with it, not with the pins. */
  const image = $derived(bench.measurer.density && densityImage(...bench.measurer.density));

  $effect(() => {
    const [drawn, under, { readings }] = [place.chart, image, reader];
    const { width, height } = place.size;
    return whenIdle(() => draw(drawn, under, readings, width, height));
  });

  function draw(
    chart: EChartsType | null,
    image: HTMLCanvasElement | null,
    readings: readonly PinValues[],
    width: number,
    height: number
  ): void {
    const side = Math.min(width, height) - 20;
    if (!chart || !image || side < 30) return;
    const left = (width - side) / 2;
    const top = (height - side) / 2;
    const axis = {
      type: 'value' as const,
      min: -DENSITY_REACH,
      max: DENSITY_REACH,
      axisLabel: { show: false },
      axisTick: { show: false },
      axisLine: { show: true, onZero: true, lineStyle: { color: '#6a6a6a' } },
      splitLine: { show: false }
    };
    const points = readings.flatMap(({ pin, after }) => {
      if (!after) return [];
      const [, a, b] = labOf(after, bench.encodings[1]);
      return [{ value: [a, b], name: roleSigns[pin.role].sign }];
    });
    chart.setOption(
      {
        animation: false,
        grid: { left, top, width: side, height: side },
        graphic: [
          {
            type: 'image',
            z: -1,
            silent: true,
            style: { image, x: left, y: top, width: side, height: side }
          },
          ...[
            { text: '+b', x: width / 2 + 4, y: top + 2 },
            { text: '+a', x: left + side - 16, y: height / 2 - 14 }
          ].map(({ text, x, y }) => ({
            type: 'text',
            silent: true,
            style: { text, x, y, fill: ink.text, fontSize: 10 }
          }))
        ],
        xAxis: axis,
        yAxis: axis,
        series: [
          {
            type: 'scatter',
            data: points,
            symbolSize: 9,
            itemStyle: { color: 'transparent', borderColor: '#fff', borderWidth: 1.5 },
            label: { show: true, position: 'right', formatter: '{b}', color: '#fff', fontSize: 11 }
          }
        ]
      },
      { notMerge: true }
    );
  }
</script>

<section class="plane" aria-label="a b plane">
  <ChartHost {place} />
</section>

<style>
  .plane {
    flex: 0 1 210px;
    min-width: 130px;
    overflow: hidden;
  }
</style>
