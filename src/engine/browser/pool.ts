import type { FromWorker } from '../jobs';
import { Pool, type Port } from '../pool';

/** A browser worker that runs the workshop. Its end is noticed by the lock that it holds while it lives. */
function workerPort(): Port {
  const name = `kromba-worker-${crypto.randomUUID()}`;
  const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name });
  const watching = new AbortController();
  let started = false;
  return {
    post: (message) => worker.postMessage(message),
    onMessage: (listener) =>
      worker.addEventListener('message', (event: MessageEvent<FromWorker>) => {
        started = true;
        listener(event.data);
      }),
    onDeath: (listener) => {
      // Before it gives its first sign an error means that its script can't be had, after that that it has failed.
      worker.addEventListener('error', (event) => {
        event.preventDefault();
        if (!watching.signal.aborted) listener(started ? 'failed' : 'not loaded');
      });
      void whenFree(name, watching.signal, () => listener('failed'));
    },
    terminate: () => {
      watching.abort();
      worker.terminate();
    }
  };
}

const ASK_AGAIN = 20;

async function whenFree(name: string, signal: AbortSignal, then: () => void): Promise<void> {
  try {
    // The worker takes its lock as it starts; until then there is nothing to wait for.
    for (;;) {
      const { held = [] } = await navigator.locks.query();
      if (signal.aborted) return;
      if (held.some((lock) => lock.name === name)) break;
      await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN));
    }
    await navigator.locks.request(name, { signal }, then);
  } catch {
    // Taken back: the worker was ended on purpose.
  }
}

const SPARE_AFTER = 1500;

/** The pool of the page: one worker less than there are cores, and at least two, as the page waits while they compute. */
export const browserPool = (): Pool =>
  new Pool(workerPort, Math.max(2, navigator.hardwareConcurrency - 1), SPARE_AFTER);
