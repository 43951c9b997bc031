import { isAwaited } from '../viewer/awaited';

/** Colours of a chart's ink; canvas knows no custom properties. */
export const ink = { quiet: '#8a8a8a', line: '#333333', before: '#5a5a5a', text: '#b3b3b3', bone: '#e3d9c3' };

/** How long a chart that stands waits, in ms. */
const PATIENCE = 100;

/**
 * Draws when the page has time, so that the picture does not wait for it; the function that comes back calls it off.
 * @param patience so long, in ms, it waits for a picture that is awaited, and for time
 */
export function whenIdle(draw: () => void, patience = PATIENCE): () => void {
  const latest = performance.now() + patience;
  const attempt = (): void => {
    if (isAwaited() && performance.now() < latest)
      asked = requestIdleCallback(attempt, { timeout: patience });
    else draw();
  };
  let asked = requestIdleCallback(attempt, { timeout: patience });
  return () => cancelIdleCallback(asked);
}
