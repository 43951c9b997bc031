import sharp, { type Sharp } from 'sharp';
import { stepSchema, type Step } from '../src/core/document';
import { modelOf } from '../src/core/colour';
import { readPng } from '../src/core/files/png-read';
import { readTiff } from '../src/core/files/tiff-read';
import { writeTiff } from '../src/core/files/tiff-write';
import { closeArena, inArena, openArena, takePlane } from '../src/core/kernels/arena';
import { mix } from '../src/core/ops/mix';
import { randomStream } from '../src/core/random';
import { buildPyramid, sharedSamples, type Frame, type Samples } from '../src/core/raster/frame';
import { exportPicture } from '../src/engine/export';
import { nodePool } from '../src/engine/node/pool';
import { provideNodeWasm } from '../src/engine/node/wasm';
import { benchBrowser } from './bench-browser';
import { buildIfChanged } from './build';
import { ensureChromium } from './chromium';
import { command } from './command';

const WIDTH = 6000;
const HEIGHT = 4000;
const PIXELS = WIDTH * HEIGHT;
/** The samples of a tile, which is what the evaluator works on. */
const BLOCK = 2 ** 16;
const RUNS = 3;

/** A smooth picture with grain, 16-bit RGB: neither the best nor the worst for a codec. */
function benchSamples(): Samples {
  const random = randomStream(2);
  const samples = sharedSamples('u16', PIXELS * 3);
  for (let y = 0, i = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      for (let c = 0; c < 3; c++) {
        const soft = Math.sin(x / 700 + c) * Math.cos(y / 500 - c) * 0.4 + 0.5;
        samples[i++] = (soft + 0.01 * (random() - 0.5)) * 65535;
      }
    }
  }
  return samples;
}

/** The path of 8 steps of the bench. */
const benchSteps: Step[] = [
  { rows: { g: { r: 0.2, g: 0.8 } } },
  { rows: { b: { b: 0.9, g: 0.1 } } },
  { model: 'lab', rows: { a: { a: 1.2 } } },
  { model: 'cmyk', rows: { k: { k: 0.95 } } },
  { rows: { r: { r: 1.1, b: -0.1 } } },
  { light: 'linear', rows: { g: { g: 0.9, b: 0.1 } } },
  { model: 'lab', rows: { b: { b: 1.1, a: 0.05 } } },
  { rows: { r: { r: 0.95, g: 0.05 } } }
].map((params, i) => stepSchema.parse({ id: `s${i}`, op: 'mix', params }));

/** The best of some runs, in ms. */
async function timed(work: () => unknown): Promise<number> {
  let best = Infinity;
  for (let i = 0; i < RUNS; i++) {
    const start = performance.now();
    await work();
    best = Math.min(best, performance.now() - start);
  }
  return best;
}

function say(what: string, found: string, wanted: string, held: boolean | null): void {
  const mark = held === null ? '' : held ? 'held' : 'MISSED';
  process.stdout.write(`${what.padEnd(52)} ${found.padStart(14)}   ${wanted.padEnd(38)} ${mark}\n`);
}

const ms = (v: number): string => `${v.toFixed(0)} ms`;

/**
 * Runs `work` on three planes of 24 megapixels that lie in memory as a whole, block by block as the evaluator does.
 * Each block is changed in place; nothing of it is in the cache when its turn comes.
 */
function overPixels(planes: readonly Float32Array[], work: (block: Float32Array[], n: number) => void): void {
  for (let from = 0; from < PIXELS; from += BLOCK) {
    const to = Math.min(PIXELS, from + BLOCK);
    work(
      planes.map((p) => p.subarray(from, to)),
      to - from
    );
  }
}

async function kernels(): Promise<void> {
  const from = new Float32Array(PIXELS * 3).fill(0.5);
  const to = new Float32Array(PIXELS * 3);
  const copy = await timed(() => to.set(from));
  const coefficients = mix.prepare(
    mix.params.parse({ rows: { r: { r: 0.9, g: 0.1 }, b: { g: 0.2, b: 0.8 } } })
  );
  const mark = openArena(PIXELS * 4 * 3 + 1024);
  const random = randomStream(6);
  const planes = [0, 1, 2].map(() => takePlane(PIXELS));
  for (const plane of planes) for (let i = 0; i < PIXELS; i++) plane[i] = random();
  if (!inArena(planes)) throw new Error('The planes of the bench do not fit into the arena.');
  const mixing = await timed(() =>
    overPixels(planes, (block, n) => mix.kernel({ width: n, height: 1, planes: block }, coefficients, block))
  );
  const raw = { raw: { width: WIDTH, height: HEIGHT, channels: 3 as const }, limitInputPixels: false };
  const bytes = Buffer.alloc(PIXELS * 3, 90);
  const matrix: [[number, number, number], [number, number, number], [number, number, number]] = [
    [0.9, 0.1, 0],
    [0, 1, 0],
    [0, 0.2, 0.8]
  ];
  const loading = await timed(() => sharp(bytes, raw).raw().toBuffer());
  const recomb = (await timed(() => sharp(bytes, raw).recomb(matrix).raw().toBuffer())) - loading;
  say('3×3 mix, 24 MP, one thread', ms(mixing), `≤ 4 × copy (${ms(copy)})`, mixing <= 4 * copy);
  say('', '', `faster than sharp recomb (${ms(recomb)})`, mixing < recomb);
  const lab = modelOf('lab');
  const there = await timed(() =>
    overPixels(planes, (block, n) => {
      lab.fromRgb(block, block, n);
      lab.toRgb(block, block, n);
    })
  );
  closeArena(mark);
  const theirs =
    (await timed(() => sharp(bytes, raw).pipelineColourspace('lab').toColourspace('srgb').raw().toBuffer())) -
    loading;
  say(
    'RGB → LAB → RGB, 24 MP, one thread',
    ms(there),
    `≤ sharp there and back (${ms(theirs)})`,
    there <= theirs
  );
}

async function files(
  samples: Samples
): Promise<Record<'png' | 'tiff', { bytes: Uint8Array; theirs: number }>> {
  const options = { raw: { width: WIDTH, height: HEIGHT, channels: 3 as const }, limitInputPixels: false };
  const typed = (): Sharp => sharp(new Uint16Array(samples), options).toColourspace('rgb16');
  const png = new Uint8Array(await typed().png({ compressionLevel: 6 }).toBuffer());
  const tiff = writeTiff({ width: WIDTH, height: HEIGHT, alpha: false, samples });
  const decode = (bytes: Uint8Array): Promise<number> =>
    timed(() =>
      sharp(bytes, { limitInputPixels: false }).toColourspace('rgb16').raw({ depth: 'ushort' }).toBuffer()
    );
  const [pngTheirs, tiffTheirs] = [await decode(png), await decode(tiff)];
  const pngOurs = await timed(() => readPng(png));
  const tiffOurs = await timed(() => readTiff(tiff));
  say('decode 24 MP 16-bit PNG in Node', ms(pngOurs), `sharp ${ms(pngTheirs)}`, null);
  say('decode 24 MP 16-bit TIFF in Node', ms(tiffOurs), `sharp ${ms(tiffTheirs)}`, null);
  return { png: { bytes: png, theirs: pngTheirs }, tiff: { bytes: tiff, theirs: tiffTheirs } };
}

async function exporting(samples: Samples): Promise<void> {
  const levels = buildPyramid({ width: WIDTH, height: HEIGHT, samples }, 3);
  const frame: Frame = {
    width: WIDTH,
    height: HEIGHT,
    layout: 'rgb',
    alpha: false,
    sampleType: 'u16',
    levels,
    missing: 0
  };
  const pool = nodePool(1);
  pool.register('f', frame);
  const source = { frame: 'f', steps: benchSteps };
  await pool.run('read', { ...source, x: 0, y: 0, after: [8] });
  const time = await timed(() => exportPicture(pool, frame, source, { format: 'tiff', depth: 'u16' }));
  say('export of 8 mixes as 16-bit TIFF, one core', ms(time), '≤ 2000 ms a core for 24 MP', time <= 2000);
  pool.close();
}

await command(async () => {
  sharp.concurrency(1);
  sharp.cache(false);
  provideNodeWasm();
  ensureChromium();
  buildIfChanged();
  process.stdout.write(
    `Kromba's bench: ${WIDTH}×${HEIGHT}, best of ${RUNS} runs where nothing else is said\n\n`
  );
  await kernels();
  const samples = benchSamples();
  const made = await files(samples);
  await exporting(samples);
  await benchBrowser(made, benchSteps, say);
});
