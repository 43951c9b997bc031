import { LineChart, ScatterChart } from 'echarts/charts';
import { GraphicComponent, GridComponent } from 'echarts/components';
import { init, use, type EChartsType } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';

use([LineChart, ScatterChart, GridComponent, GraphicComponent, CanvasRenderer]);

export function chartIn(element: HTMLElement): EChartsType {
  const chart = init(element, null, { renderer: 'canvas' });
  // Nothing here moves by itself: the chart asks for no further frames once it is drawn.
  chart.getZr().setSleepAfterStill(1);
  return chart;
}
