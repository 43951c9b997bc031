import { initEmscriptenModule } from '@jsquash/webp/utils.js';
import type { Samples } from '../raster/frame';
import { sharedSamples } from '../raster/frame';
import type { Rect } from '../raster/raster';
import { damaged, type FinishedImage } from './image';
import { once, partOf, wasmModule, WHAT, type WasmName } from './wasm';

/** Codecs hand their pixels over in this class, which only browsers have. */
export class PlainImageData {
  readonly colorSpace = 'srgb';
  readonly pixelFormat = 'rgba-unorm8';
  constructor(
    readonly data: Uint8ClampedArray<ArrayBuffer>,
    readonly width: number,
    readonly height: number
  ) {}
}

/** What codecs make their answers of. */
export function withImageData(): void {
  globalThis.ImageData ??= PlainImageData as unknown as typeof ImageData;
}

/** RGBA of a picture, row by row. */
export interface Pixels {
  readonly data: Uint8ClampedArray | Uint8Array | Uint16Array;
  readonly width: number;
  readonly height: number;
}

interface Reading {
  decode(bytes: Uint8Array, bits?: number): Pixels | null;
}
interface Writing {
  encode(rgba: Uint8Array, width: number, height: number, options: object): Uint8Array | null;
}

type Factory = Parameters<typeof initEmscriptenModule>[0];
/** A codec that is loaded with the first file that needs it. */
const codec = <T>(name: WasmName, load: () => Promise<{ readonly default: unknown }>): (() => Promise<T>) => {
  const glue = partOf(WHAT[name], load);
  return once(async () => {
    const [module, { default: factory }] = await Promise.all([wasmModule(name), glue()]);
    return (await initEmscriptenModule(factory as Factory, module)) as unknown as T;
  });
};

/** Reads the pixels of a file whose header has been looked at; some codecs turn them upright. @throws FileError */
export function reader(
  name: WasmName,
  load: () => Promise<{ readonly default: unknown }>
): (bytes: Uint8Array, size: { width: number; height: number }, bits?: number) => Promise<Pixels> {
  const loaded = codec<Reading>(name, load);
  return async (bytes, size, bits) => {
    withImageData();
    const { decode } = await loaded();
    let pixels: Pixels | null = null;
    try {
      pixels = bits === undefined ? decode(bytes) : decode(bytes, bits);
    } catch (error) {
      if (error instanceof RangeError) throw error;
      // Told below: the codec's own words are not for a person.
    }
    const sides = ({ width: w, height: h }: typeof size): string => `${Math.min(w, h)} ${Math.max(w, h)}`;
    if (pixels && sides(pixels) === sides(size)) return pixels;
    throw damaged('its compressed data makes no sense');
  };
}

/** Writes RGBA. @throws FileError */
export function writer(
  name: WasmName,
  load: () => Promise<{ readonly default: unknown }>
): (rgba: Uint8Array, size: { width: number; height: number }, options: object) => Promise<Uint8Array> {
  const loaded = codec<Writing>(name, load);
  return async (rgba, { width, height }, options) => {
    const { encode } = await loaded();
    const bytes = encode(rgba, width, height, options);
    if (!bytes) throw new RangeError('The codec could not write the picture.');
    // It lies in the codec's memory.
    return bytes.slice();
  };
}

/** Samples without what RGBA has and the picture has not. */
export function samplesOf(
  { data, width, height }: Pixels,
  alpha: boolean,
  part: Rect = { x: 0, y: 0, width, height }
): Samples {
  const channels = alpha ? 4 : 3;
  const deep = data instanceof Uint16Array;
  const samples = sharedSamples(deep ? 'u16' : 'u8', part.width * part.height * channels);
  for (let y = part.y, at = 0; y < part.y + part.height; y++) {
    const from = 4 * (y * width + part.x);
    for (let i = from; i < from + 4 * part.width; i += 4)
      for (let c = 0; c < channels; c++) samples[at++] = data[i + c];
  }
  return samples;
}

/** RGBA of a finished picture, of samples of so many bits; what has no alpha is opaque. */
export function rgbaOf({ width, height, alpha, grey, samples }: FinishedImage, bits = 8): Uint8Array {
  const deep = bits > 8;
  const most = 2 ** bits - 1;
  const out = deep ? new Uint16Array(4 * width * height) : new Uint8Array(4 * width * height);
  const from = grey ? 1 : alpha ? 4 : 3;
  const scale = most / (samples instanceof Uint8Array ? 255 : 65535);
  for (let i = 0, at = 0; i < out.length; i += 4, at += from) {
    for (let c = 0; c < 4; c++) {
      const v = c === 3 && from < 4 ? null : samples[at + (grey ? 0 : c)];
      out[i + c] = v === null ? most : scale === 1 ? v : Math.round(v * scale);
    }
  }
  return new Uint8Array(out.buffer);
}
