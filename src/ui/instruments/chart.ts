import { LineChart, ScatterChart } from 'echarts/charts';
import { GraphicComponent, GridComponent } from 'echarts/components';
import { init, use, type EChartsType } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';

use([LineChart, ScatterChart, GridComponent, GraphicComponent, CanvasRenderer]);

/** A chart that keeps the size of its element; the second part ends it. */
export function chartIn(
  element: HTMLElement,
  onSize: (chart: EChartsType) => void = () => undefined
): [EChartsType, () => void] {
  const chart = init(element, null, { renderer: 'canvas' });
  const watching = new ResizeObserver(() => {
    chart.resize();
    onSize(chart);
  });
  watching.observe(element);
  return [
    chart,
    () => {
      watching.disconnect();
      chart.dispose();
    }
  ];
}

/** Colours of a chart's ink; canvas knows no custom properties. */
export const ink = { quiet: '#8a8a8a', line: '#333333', before: '#5a5a5a', text: '#b3b3b3', bone: '#e3d9c3' };
