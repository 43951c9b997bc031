import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import type { FromWorker } from '../jobs';
import { Pool, type Port } from '../pool';

/** What a thread begins with: a program beside this one, or TypeScript, which is set up there first. */
const START = import.meta.url.endsWith('.ts') ? './worker-start.mjs' : './thread.js';

/** What a thread is told when it begins. */
export interface ThreadData {
  /** It opens no picture of more pixels. */
  readonly mostPixels?: number;
}

/** A Node thread that runs the workshop. */
export function threadPort(data: ThreadData = {}): Port {
  // Some libraries ask a thread for its data and do not expect that there is none.
  const worker = new Worker(new URL(START, import.meta.url), { workerData: data });
  let asked = false;
  return {
    post: (message) => worker.postMessage(message),
    onMessage: (listener) => worker.on('message', (message: FromWorker) => listener(message)),
    onDeath: (listener) => {
      worker.on('error', () => undefined);
      worker.on('exit', () => {
        if (!asked) listener('failed');
      });
    },
    terminate: () => {
      asked = true;
      void worker.terminate();
    }
  };
}

/** The pool on Node threads, for the headless commands and the server. */
export const nodePool = (size = availableParallelism(), data?: ThreadData): Pool =>
  new Pool(() => threadPort(data), size);
