import { LineChart, ScatterChart } from 'echarts/charts';
import { GraphicComponent, GridComponent } from 'echarts/components';
import { isAwaited } from '../viewer/awaited';
import { init, use, type EChartsType } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';

use([LineChart, ScatterChart, GridComponent, GraphicComponent, CanvasRenderer]);

/** A chart that keeps the size of its element; the second part ends it. */
export function chartIn(
  element: HTMLElement,
  onSize: (chart: EChartsType) => void = () => undefined
): [EChartsType, () => void] {
  const chart = init(element, null, { renderer: 'canvas' });
  // Nothing here moves by itself: the chart asks for no further frames once it is drawn.
  chart.getZr().setSleepAfterStill(1);
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

/** Longer than this, in ms, a drawing does not wait for the page to have time. */
const PATIENCE = 100;

/** Draws when the page has time, so that the picture does not wait for it; the function that comes back calls it off. */
export function whenIdle(draw: () => void): () => void {
  const latest = performance.now() + PATIENCE;
  const attempt = (): void => {
    if (isAwaited() && performance.now() < latest)
      asked = requestIdleCallback(attempt, { timeout: PATIENCE });
    else draw();
  };
  let asked = requestIdleCallback(attempt, { timeout: PATIENCE });
  return () => cancelIdleCallback(asked);
}
