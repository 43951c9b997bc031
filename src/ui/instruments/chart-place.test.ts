import type { EChartsType } from 'echarts/core';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { ChartPlace } from './chart-place.svelte';

const { chartIn, idle } = vi.hoisted(() => ({
  chartIn: vi.fn<(element: HTMLElement) => EChartsType>(),
  /** What waits for the page to have time. */
  idle: new Set<() => void>()
}));
vi.mock('./chart-library', () => ({ chartIn }));
vi.mock('./chart', () => ({
  whenIdle: (work: () => void) => {
    idle.add(work);
    return () => idle.delete(work);
  }
}));

const element = {} as HTMLElement;
const dispose = vi.fn();
let measured: () => void;
const disconnect = vi.fn();

beforeEach(() => {
  vi.stubGlobal(
    'ResizeObserver',
    class {
      constructor(onresize: () => void) {
        measured = onresize;
      }
      observe = vi.fn();
      disconnect = disconnect;
    }
  );
  chartIn.mockReturnValue({
    ...{ dispose, resize: vi.fn(), getWidth: () => 320, getHeight: () => 180 }
  } as unknown as EChartsType);
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.clearAllMocks();
});

/** The page has time. */
function rest(): void {
  idle.forEach((work) => work());
  idle.clear();
}

it('has a chart that follows the size of its element, until it is left', async () => {
  const place = new ChartPlace();
  const leave = place.fill(element);
  rest();
  await expect.poll(() => place.chart).not.toBeNull();
  expect(chartIn).toHaveBeenCalledWith(element);
  measured();
  expect(place.size).toEqual({ width: 320, height: 180 });
  leave();
  expect([place.chart, dispose.mock.calls.length, disconnect.mock.calls.length]).toEqual([null, 1, 1]);
});

it('has none where it is left before it is begun, or while the charts are loaded', async () => {
  const place = new ChartPlace();
  place.fill(element)();
  rest();
  const leave = place.fill(element);
  rest();
  leave();
  await vi.dynamicImportSettled();
  expect([place.chart, place.problem, chartIn.mock.calls.length]).toEqual([null, '', 0]);
});

it('tells what the browser can’t draw, and not any more when it can', async () => {
  const place = new ChartPlace();
  chartIn.mockImplementationOnce(() => {
    throw new Error('No canvas is left.');
  });
  const leave = place.fill(element);
  rest();
  await expect.poll(() => place.problem).toBe('The browser can’t draw this chart. No canvas is left.');
  leave();
  place.fill(element);
  expect(place.problem).toBe('');
  rest();
  await expect.poll(() => place.chart).not.toBeNull();
});
