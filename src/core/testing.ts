import { modelOf, type Encoding, type ModelId } from './colour';
import {
  Resolver,
  stepSchema,
  type KrombaDocument,
  type PictureSource,
  type Pin,
  type SourceStep,
  type Step
} from './document';
import { headOf } from './heads';
import { evaluate } from './path/evaluate';
import { Planner } from './path/planner';
import { type Plan } from './path/plan';
import { randomStream } from './random';
import { buildPyramid, sharedSamples, type Frame, type SampleType } from './raster/frame';

/** What tests are made of: frames, steps, pictures of a few pixels. */

/** A frame of float samples, interleaved RGB. */
export function floatFrame(width: number, height: number, rgb: ArrayLike<number>): Frame {
  const samples = sharedSamples('f32', width * height * 3);
  samples.set(rgb);
  let missing = 0;
  for (let i = 0; i < samples.length; i++) if (Number.isNaN(samples[i])) missing++;
  const levels = buildPyramid({ width, height, samples }, 3);
  return {
    width,
    height,
    layout: 'rgb',
    alpha: false,
    sampleType: 'f32',
    encoding: 'coded',
    levels,
    missing
  };
}

/** A grey frame in floats, by place. */
export function greyFrame(width: number, height: number, value: (x: number, y: number) => number): Frame {
  const rgb = new Float32Array(3 * width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i += 3) rgb[i] = rgb[i + 1] = rgb[i + 2] = value(x, y);
  return floatFrame(width, height, rgb);
}

/** A frame of even noise. */
export function noiseFrame(
  width: number,
  height: number,
  alpha = false,
  type: SampleType = 'u16',
  seed = 3
): Frame {
  const random = randomStream(seed);
  const channels = alpha ? 4 : 3;
  const most = { u8: 256, u16: 65536, f32: 1 }[type];
  const samples = sharedSamples(type, width * height * channels);
  for (let i = 0; i < samples.length; i++) samples[i] = random() * most;
  const levels = buildPyramid({ width, height, samples }, channels);
  return { width, height, layout: 'rgb', alpha, sampleType: type, encoding: 'coded', levels, missing: 0 };
}

/** A frame like a photograph: soft shapes, some edges, a little grain, in 16 bit. */
export function softFrame(width: number, height: number, seed = 5): Frame {
  const random = randomStream(seed);
  const samples = sharedSamples('u16', width * height * 3);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const edge = (x * 3 + y) % 160 < 70 ? 0.12 : -0.1;
      for (let c = 0; c < 3; c++, i++) {
        const soft = 0.5 + 0.27 * Math.sin(x / (31 + 9 * c) + c) * Math.cos(y / (37 - 5 * c) - c);
        samples[i] = Math.min(1, Math.max(0, soft + edge + 0.02 * (random() - 0.5))) * 65535;
      }
    }
  }
  const levels = buildPyramid({ width, height, samples }, 3);
  return {
    width,
    height,
    layout: 'rgb',
    alpha: false,
    sampleType: 'u16',
    encoding: 'coded',
    levels,
    missing: 0
  };
}

let count = 0;
export const stepOf = (op: string, params: object = {}, more: object = {}): Step =>
  stepSchema.parse({ id: `t${count++}`, op, params, ...more });

/** What work that tells how far it is comes to. */
export function finished<T>(work: Generator<number, T, void>): T {
  for (;;) {
    const { done, value } = work.next();
    if (done) return value as T;
  }
}

/** The plan of steps over one frame. */
export const planOf = (
  frame: Frame,
  steps: readonly SourceStep[] = [],
  pins: readonly Pin[] = [],
  encoding: Encoding = 'coded'
): Plan => new Planner(() => frame).plan({ head: headOf('frame', encoding), steps, pins });

/** A picture of one frame, as workers get it. */
export const pictureOf = (steps: readonly SourceStep[] = [], pins: readonly Pin[] = []): PictureSource => ({
  head: headOf('frame'),
  steps,
  pins
});

/** The planes of the first picture of a document at full size. @param frames by the ids that the document gives them */
export function renderDocument(
  document: KrombaDocument,
  frames: Readonly<Record<string, Frame>>,
  picture = document.pictures[0].id
): readonly Float32Array[] {
  const ids = Object.fromEntries(document.frames.map(({ id }) => [id, id]));
  const source = new Resolver(document, ids).picture({ picture })!;
  const plan = new Planner((id) => frames[id]).plan(source);
  const { width, height } = plan.geometry;
  return evaluate(plan, 0, { x: 0, y: 0, width, height }).planes;
}

/** The planes of a whole picture at full size. */
export function render(
  frame: Frame,
  steps: readonly Step[],
  pins: readonly Pin[] = [],
  encoding: Encoding = 'coded'
): readonly Float32Array[] {
  const plan = planOf(frame, steps, pins, encoding);
  const { width, height } = plan.geometry;
  return evaluate(plan, 0, { x: 0, y: 0, width, height }).planes;
}

/** Colours, a row of pixels, after one step. */
export function stepped(
  colours: readonly (readonly number[])[],
  op: string,
  params: object = {},
  more: object = {}
): number[][] {
  const planes = render(floatFrame(colours.length, 1, colours.flat()), [stepOf(op, params, more)]);
  return colours.map((_, i) => planes.map((p) => p[i]));
}

/** The stored values of a model's channels for one colour. */
export function valuesIn(model: ModelId, rgb: readonly number[]): number[] {
  const { planes, channels, kernels } = modelOf(model);
  const out = Array.from({ length: planes }, () => new Float32Array(1));
  kernels.coded.fromRgb(
    rgb.map((v) => Float32Array.of(v)),
    out,
    1
  );
  return out.slice(0, channels.length).map((p) => p[0]);
}

/** Random colours in 0…1. */
export function randomColours(n: number, seed = 7): number[][] {
  const random = randomStream(seed);
  return Array.from({ length: n }, () => [random(), random(), random()]);
}

export const largestDifference = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  let most = 0;
  for (let i = 0; i < a.length; i++)
    most = Math.max(most, Number.isNaN(a[i] - b[i]) ? Infinity : Math.abs(a[i] - b[i]));
  return most;
};

/** How the samples of a TIFF lie in it (tag 259 of TIFF 6.0), as another reader of TIFF has it. */
export async function tiffCompression(file: Uint8Array): Promise<string> {
  const { fromArrayBuffer } = await import('geotiff');
  const image = await (await fromArrayBuffer(new Uint8Array(file).buffer)).getImage();
  const number = image.fileDirectory.getValue('Compression');
  return number === 1 ? 'none' : number === 8 ? 'deflate' : `number ${number}`;
}
