import { parentPort } from 'node:worker_threads';
import type { ToWorker } from '../jobs';
import { Workshop } from '../workshop';
import { provideNodeWasm } from './wasm';

provideNodeWasm();
const workshop = new Workshop();
parentPort!.on('message', (message: ToWorker) => {
  void workshop.take(message, (answer, transfer) =>
    parentPort!.postMessage(answer, transfer as ArrayBuffer[])
  );
});
