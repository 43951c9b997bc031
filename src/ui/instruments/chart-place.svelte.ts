import type { EChartsType } from 'echarts/core';
import { whenIdle } from './chart';

/** As large as the rest of the bench: it is loaded for the first chart, after the picture. A browser tries that once a visit. */
const library = (): Promise<typeof import('./chart-library')> => import('./chart-library');

/** So long, in ms, a chart waits for a picture that is awaited. */
const PATIENCE = 1000;

/** Where a chart stands, which keeps the size of its element. */
export class ChartPlace {
  chart = $state.raw<EChartsType | null>(null);
  size = $state.raw({ width: 0, height: 0 });
  /** Why there is none, in words for a person. */
  problem = $state('');

  /** Has a chart in an element; the function that comes back ends it, or calls it off. */
  fill(element: HTMLElement): () => void {
    let gone = false;
    const make = async (): Promise<void> => {
      const loaded = await library().catch(() => null);
      if (gone) return;
      try {
        if (loaded) this.keepSize(element, loaded.chartIn(element));
        else
          this.problem =
            'The charts could not be loaded: the server is gone, or was renewed. Nothing saved is lost. Reload the page.';
      } catch (error) {
        this.problem = `The browser can’t draw this chart. ${(error as Error).message}`;
      }
    };
    this.problem = '';
    const callOff = whenIdle(() => void make(), PATIENCE);
    return () => {
      gone = true;
      callOff();
      this.watching?.disconnect();
      this.chart?.dispose();
      this.chart = null;
    };
  }

  private watching: ResizeObserver | null = null;

  private keepSize(element: HTMLElement, chart: EChartsType): void {
    this.chart = chart;
    this.watching = new ResizeObserver(() => {
      chart.resize();
      this.size = { width: chart.getWidth(), height: chart.getHeight() };
    });
    this.watching.observe(element);
  }
}
