import { parseArgs } from 'node:util';
import { channelsAt } from '../src/core/colour';
import { openFrame } from '../src/core/files/open-frame';
import { headOf } from '../src/core/heads';
import { frameStatistics } from '../src/core/measure/statistics';
import { evaluate } from '../src/core/path/evaluate';
import { Planner } from '../src/core/path/planner';
import type { Frame } from '../src/core/raster/frame';
import { provideNodeWasm } from '../src/engine/node/wasm';
import { command, readInput } from './command';

const USAGE = 'Usage: npm run -s measure -- IMAGE [--at x,y]';

/** Every channel at a pixel. */
function valuesAt(frame: Frame, text: string): object {
  const place = /^(\d+),(\d+)$/.exec(text);
  if (!place) throw new Error(`--at ${text}: give two whole numbers, x,y, in pixels from the upper left.`);
  const [x, y] = [Number(place[1]), Number(place[2])];
  if (x >= frame.width || y >= frame.height) {
    throw new Error(
      `--at ${text}: the picture is ${frame.width}×${frame.height}, so x goes to ${frame.width - 1} and y to ${frame.height - 1}.`
    );
  }
  const plan = new Planner(() => frame).plan({
    head: headOf('measured', frame.encoding),
    steps: [],
    pins: []
  });
  const { planes } = evaluate(plan, 0, { x, y, width: 1, height: 1 });
  const rgb = planes.map((p) => p[0]);
  return { x, y, ...channelsAt(rgb, frame.encoding) };
}

await command(async () => {
  const { values, positionals } = parseArgs({ allowPositionals: true, options: { at: { type: 'string' } } });
  if (positionals.length !== 1) throw new Error(USAGE);
  const [path] = positionals;
  provideNodeWasm();
  const bytes = await readInput(path);
  const { frame, notices } = await openFrame(bytes).catch((error: Error) => {
    throw new Error(`${path}: ${error.message}`, { cause: error });
  });
  const { width, height, sampleType, missing } = frame;
  const at = values.at === undefined ? {} : { at: valuesAt(frame, values.at) };
  const result = { width, height, sampleType, missing, notices, planes: frameStatistics(frame), ...at };
  process.stdout.write(`${JSON.stringify(result, null, 2)}\n`);
});
