import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { setAwaited } from '../viewer/awaited';
import { whenIdle } from './chart';

const view = {};

beforeEach(() => {
  vi.useFakeTimers();
  // A page that has time every 10 ms.
  vi.stubGlobal('requestIdleCallback', (then: () => void) => setTimeout(then, 10));
  vi.stubGlobal('cancelIdleCallback', clearTimeout);
});
afterEach(() => {
  setAwaited(view, false);
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

describe('a chart', () => {
  it('is drawn when the page has time', () => {
    const draw = vi.fn();
    whenIdle(draw);
    expect(draw).not.toHaveBeenCalled();
    vi.advanceTimersByTime(10);
    expect(draw).toHaveBeenCalledTimes(1);
  });

  it('waits for a picture that is awaited, but not for ever', () => {
    const draw = vi.fn();
    setAwaited(view, true);
    whenIdle(draw);
    vi.advanceTimersByTime(50);
    expect(draw).not.toHaveBeenCalled();
    setAwaited(view, false);
    vi.advanceTimersByTime(10);
    expect(draw).toHaveBeenCalledTimes(1);
    setAwaited(view, true);
    whenIdle(draw);
    vi.advanceTimersByTime(90);
    expect(draw).toHaveBeenCalledTimes(1);
    vi.advanceTimersByTime(10);
    expect(draw).toHaveBeenCalledTimes(2);
  });

  it('is not drawn once it is called off, also while it waits', () => {
    const draw = vi.fn();
    setAwaited(view, true);
    const callOff = whenIdle(draw);
    vi.advanceTimersByTime(30);
    callOff();
    vi.advanceTimersByTime(500);
    expect(draw).not.toHaveBeenCalled();
  });
});
