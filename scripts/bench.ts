import sharp, { type Sharp } from 'sharp';
import { stepSchema, type Step } from '../src/core/document';
import { headOf } from '../src/core/heads';
import { modelOf } from '../src/core/colour';
import { readPng } from '../src/core/files/png-read';
import { readTiff } from '../src/core/files/tiff-read';
import { inArena, inRoom, takePlane } from '../src/core/kernels/arena';
import { mix } from '../src/core/ops/mix';
import { givenFor } from '../src/core/ops/op';
import { wholeField } from '../src/core/spatial/field';
import { randomStream } from '../src/core/random';
import { buildPyramid, sharedSamples, type Frame, type Samples } from '../src/core/raster/frame';
import { exportPicture } from '../src/engine/export';
import { nodePool } from '../src/engine/node/pool';
import { provideNodeWasm } from '../src/engine/node/wasm';
import { BROWSER_PARTS, benchBrowser } from './bench-browser';
import { benchSky, skyDocument } from './bench-sky';
import { buildIfChanged } from './build';
import { ensureForBenches } from './chromium';
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

/** The path of 8 steps of the bench; the black-and-white is off. */
/** Strokes of a few hundred points, as a hand lays them. */
const strokes = Array.from({ length: 12 }, (_, k) => ({
  points: Array.from({ length: 40 }, (_, i) => [400 + 130 * i, 300 * k + 260 * Math.sin(i / 5 + k), 1]),
  size: 220,
  hardness: 0.3,
  flow: 0.6
}));

/** Five masked steps: by a channel, by colour, by paint, by a ramp and a channel, by an ink that is grown and blurred. */
const maskedSteps: Step[] = [
  { op: 'mix', params: { rows: { g: { g: 0.9, r: 0.1 } } } },
  {
    op: 'colour',
    params: { saturation: 30 },
    where: { terms: [{ source: { kind: 'distance', to: [60, 20, 30], space: 'lab', range: 50 } }] }
  },
  {
    op: 'curves',
    on: { model: 'lab', channels: ['l'] },
    params: {
      curves: {
        l: [
          [0, 0],
          [0.5, 0.6],
          [1, 1]
        ]
      }
    },
    where: {
      terms: [
        {
          source: { kind: 'channel', channel: 'rgb.b' },
          curve: [
            [0, 0],
            [0.4, 0],
            [0.7, 1],
            [1, 1]
          ]
        }
      ]
    }
  },
  {
    op: 'levels',
    params: { channels: { all: { white: 0.9 } } },
    where: { terms: [{ source: { kind: 'paint', strokes } }] }
  },
  {
    op: 'sharpen',
    on: { model: 'lab', channels: ['l'] },
    params: {},
    where: {
      terms: [
        { source: { kind: 'ramp', from: [3000, 200], to: [3000, 3800] } },
        { source: { kind: 'channel', channel: 'lum' } }
      ]
    }
  },
  {
    op: 'mix',
    params: { rows: { g: { g: 1 } } },
    where: { terms: [{ source: { kind: 'channel', channel: 'cmyk.m' } }], grow: 6, blur: 8 }
  }
].map((step, i) => stepSchema.parse({ id: `m${i}`, ...step }));

const benchSteps: Step[] = [
  { op: 'balance', params: { gain: { r: 0.95, b: 1.08 }, offset: { g: 0.01 } } },
  { op: 'mix', params: { rows: { g: { r: 0.2, g: 0.8 } } } },
  {
    op: 'curves',
    on: { model: 'lab', channels: ['l', 'a', 'b'] },
    params: {
      curves: {
        l: [
          [0, 0],
          [0.4, 0.45],
          [1, 1]
        ],
        a: [
          [0, 0],
          [0.45, 0.42],
          [1, 1]
        ],
        b: [
          [0, 0.02],
          [1, 0.98]
        ]
      }
    }
  },
  {
    op: 'colour',
    params: {
      saturation: 10,
      bands: [
        { centre: 40, width: 60, saturation: -20 },
        { centre: 220, width: 90, hue: 12 }
      ]
    }
  },
  { op: 'levels', params: { channels: { all: { black: 0.02, mid: 1.1, white: 0.97 } } } },
  { op: 'sharpen', on: { model: 'lab', channels: ['l'] }, params: { radius: 1.5, amount: 80 } },
  { op: 'mono', params: {}, enabled: false },
  { op: 'mix', params: { rows: { r: { r: 0.95, g: 0.05 } } } }
].map((step, i) => stepSchema.parse({ id: `s${i}`, ...step }));

/** The best of some runs, in ms. */
async function timed(work: () => unknown, runs = RUNS): Promise<number> {
  let best = Infinity;
  for (let i = 0; i < runs; i++) {
    const start = performance.now();
    await work();
    best = Math.min(best, performance.now() - start);
  }
  return best;
}

/** The same for work that does not wait. */
const timedNow = (work: () => void): number =>
  Math.min(
    ...Array.from({ length: RUNS }, () => {
      const start = performance.now();
      work();
      return performance.now() - start;
    })
  );

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
    mix.params.parse({ rows: { r: { r: 0.9, g: 0.1 }, b: { g: 0.2, b: 0.8 } } }),
    givenFor(modelOf('rgb')),
    null
  );
  const lab = modelOf('lab').kernels.coded;
  const [mixing, there] = inRoom(
    () => {
      const random = randomStream(6);
      const planes = [0, 1, 2].map(() => takePlane(PIXELS));
      for (const plane of planes) for (let i = 0; i < PIXELS; i++) plane[i] = random();
      if (!inArena(planes)) throw new Error('The planes of the bench do not fit into the arena.');
      const around = { scale: 1, taken: [], absent: [], encoding: 'coded' as const };
      return [
        timedNow(() =>
          overPixels(planes, (block, n) =>
            mix.kernel(
              { ...wholeField({ x: 0, y: 0, width: n, height: 1 }), ...around, planes: block },
              coefficients,
              block
            )
          )
        ),
        timedNow(() =>
          overPixels(planes, (block, n) => {
            lab.fromRgb(block, block, n);
            lab.toRgb(block, block, n);
          })
        )
      ];
    },
    PIXELS * 4 * 3 + 1024
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
  say('3×3 mix, 24 MP, one thread', ms(mixing), `≤ 0.8 × copy (${ms(copy)})`, mixing <= 0.8 * copy);
  say('', '', `faster than sharp recomb (${ms(recomb)})`, mixing < recomb);
  const theirs =
    (await timed(() => sharp(bytes, raw).pipelineColourspace('lab').toColourspace('srgb').raw().toBuffer())) -
    loading;
  say(
    'RGB → LAB → RGB, 24 MP, one thread',
    ms(there),
    `≤ 0.45 × sharp there and back (${ms(theirs)})`,
    there <= 0.45 * theirs
  );
}

async function files(
  samples: Samples
): Promise<Record<'png' | 'tiff', { bytes: Uint8Array; theirs: number }>> {
  const options = { raw: { width: WIDTH, height: HEIGHT, channels: 3 as const }, limitInputPixels: false };
  const typed = (): Sharp => sharp(new Uint16Array(samples), options).toColourspace('rgb16');
  const png = new Uint8Array(await typed().png({ compressionLevel: 6 }).toBuffer());
  const tiff = new Uint8Array(await typed().tiff({ compression: 'none' }).toBuffer());
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
    encoding: 'coded',
    levels,
    missing: 0
  };
  const pool = nodePool(1);
  pool.register('f', frame);
  const picture = { head: headOf('f'), pins: [] };
  const shape = { ...frame, mayMiss: false };
  const source = { ...picture, steps: benchSteps };
  await pool.run('read', { ...source, spots: [{ x: 1, y: 1, size: 1 }], places: ['end'] });
  for (const compression of ['none', 'deflate'] as const) {
    const time = await timed(() =>
      exportPicture(pool, shape, source, { format: 'tiff', depth: 'u16', compression })
    );
    const nearest = await timed(() =>
      sharp(new Uint16Array(samples), {
        raw: { width: WIDTH, height: HEIGHT, channels: 3 },
        limitInputPixels: false
      })
        .toColourspace('rgb16')
        .recomb([
          [0.95, 0, 0],
          [0.2, 0.8, 0],
          [0, 0, 1.08]
        ])
        .modulate({ saturation: 1.1 })
        .linear(1.05, -0.02)
        .sharpen({ sigma: 1.5 })
        .tiff({ compression, predictor: compression === 'deflate' ? 'horizontal' : 'none' })
        .toBuffer()
    );
    say(
      `export of the 8 steps as 16-bit TIFF${compression === 'deflate' ? ', deflated' : ''}, one core`,
      ms(time),
      `≤ 0.3 × sharp’s nearest (${ms(nearest)})`,
      time <= 0.3 * nearest
    );
  }
  for (const op of ['local', 'detail']) {
    const times = [];
    // Not packed: of both the same time would hide how they differ.
    for (const radius of [5, 100]) {
      const steps = [stepSchema.parse({ id: 's', op, params: { radius } })];
      times.push(
        await timed(
          () =>
            exportPicture(
              pool,
              shape,
              { ...picture, steps },
              { format: 'tiff', depth: 'u16', compression: 'none' }
            ),
          1
        )
      );
    }
    const [narrow, wide] = times;
    say(
      `${op}, radius 100 px, export, one core`,
      ms(wide),
      `≤ 4 × radius 5 px (${ms(narrow)})`,
      wide <= 4 * narrow
    );
  }
  pool.close();
}

/** Two steps whose results stand for the whole picture, and a mix behind them. */
const settlingSteps: Step[] = [
  {
    op: 'scales',
    on: { model: 'lab', channels: ['l'] },
    params: {
      layers: [1, 1.2, 1.4, 1.2, 1, 1].map((gain) => ({ gain, threshold: 0 })),
      compress: { from: 40, amount: 0.3 }
    }
  },
  { op: 'denoise', on: { model: 'lab', channels: ['l', 'a', 'b'] }, params: {} },
  { op: 'mix', params: { rows: { g: { g: 0.9, r: 0.1 } } } }
].map((step, i) => stepSchema.parse({ id: `w${i}`, ...step }));

const PARTS = ['kernels', 'export', 'sky', ...BROWSER_PARTS] as const;
type Part = (typeof PARTS)[number];

await command(async () => {
  sharp.concurrency(1);
  sharp.cache(false);
  provideNodeWasm();
  await ensureForBenches();
  buildIfChanged();
  process.stdout.write(
    `Kromba's bench: ${WIDTH}×${HEIGHT}, best of ${RUNS} runs where nothing else is said\n\n`
  );
  const asked = process.argv[2] as Part | undefined;
  if (asked !== undefined && !PARTS.includes(asked))
    throw new Error(`There is no part “${asked}” of the bench: ${PARTS.join(', ')}.`);
  const does = (part: Part): boolean => asked === undefined || asked === part;
  if (does('kernels')) await kernels();
  const samples = benchSamples();
  const made = await files(samples);
  if (does('export')) await exporting(samples);
  if (does('sky')) await benchSky({ width: WIDTH, height: HEIGHT }, say);
  const paths = { steps: benchSteps, masked: maskedSteps, settling: settlingSteps };
  await benchBrowser(made, paths, skyDocument({ width: WIDTH, height: HEIGHT }), does, say);
});
