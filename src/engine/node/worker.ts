import { parentPort, workerData } from 'node:worker_threads';
import { allowPixels } from '../../core/files';
import type { ToWorker } from '../jobs';
import { Workshop } from '../workshop';
import type { ThreadData } from './pool';
import { provideNodeWasm } from './wasm';

provideNodeWasm();
const { mostPixels } = workerData as ThreadData;
if (mostPixels !== undefined) allowPixels(mostPixels);
const workshop = new Workshop();
parentPort!.on('message', (message: ToWorker) => {
  void workshop.take(message, (answer, transfer) =>
    parentPort!.postMessage(answer, transfer as ArrayBuffer[])
  );
});
