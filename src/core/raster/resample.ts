import { codingOf, type Coding } from '../colour/output';
import { sampleScale, sharedSamples, type Samples, type SampleType } from './frame';

const LOBES = 3;

/** Lanczos 3 (Duchon 1979): sinc windowed by a wider sinc. */
function lanczos(x: number): number {
  if (x === 0) return 1;
  if (Math.abs(x) >= LOBES) return 0;
  const t = Math.PI * x;
  return (LOBES * Math.sin(t) * Math.sin(t / LOBES)) / (t * t);
}

interface Tap {
  readonly first: number;
  readonly weights: Float64Array;
}

/** For each of `to` samples, the source samples it is made of; the kernel widens when it shrinks. */
function taps(from: number, to: number): Tap[] {
  const scale = from / to;
  const widen = Math.max(1, scale);
  return Array.from({ length: to }, (_, i) => {
    const centre = (i + 0.5) * scale - 0.5;
    const first = Math.max(0, Math.ceil(centre - LOBES * widen));
    const last = Math.min(from - 1, Math.floor(centre + LOBES * widen));
    const weights = Float64Array.from({ length: last - first + 1 }, (_, k) =>
      lanczos((first + k - centre) / widen)
    );
    const sum = weights.reduce((a, b) => a + b, 0);
    return { first, weights: weights.map((w) => w / sum) };
  });
}

export interface Resampling {
  /** The last of a pixel's samples is its alpha. */
  readonly alpha?: boolean;
  /** How the others stand for light. */
  readonly coding?: Coding;
}

/** Reads samples as what is averaged; integers by a table. */
function lightOf(samples: Samples, { decode, exactDecode }: Coding): (v: number) => number {
  if (samples instanceof Float32Array) return decode;
  const scale = sampleScale(samples);
  const table = Float32Array.from({ length: 1 / scale + 1.5 }, (_, i) => exactDecode(i * scale));
  return (v) => table[v];
}

/** A row made of another one of as many pixels as it is to have: the weighted sums, and the weights where samples are missing. */
interface Row {
  readonly sums: Float32Array;
  /** For each sum, the weight of what is there, times its alpha; null where nothing is missing. */
  readonly there: Float32Array | null;
}

/** Where less of the weight is there, what is made of it is missing. */
const ENOUGH = 0.5;

/**
 * Resamples interleaved `samples` by Lanczos 3 in both directions, in the same sample type. Colours are averaged as light, each by as much
 * as its alpha says, and over those that are there: one is missing where less than half of its weight is.
 */
export function resample(
  samples: Samples,
  width: number,
  height: number,
  channels: number,
  toWidth: number,
  toHeight: number,
  { alpha: withAlpha = false, coding = codingOf() }: Resampling = {}
): Samples {
  const columns = taps(width, toWidth);
  const rows = taps(height, toHeight);
  const type: SampleType =
    samples instanceof Uint8Array ? 'u8' : samples instanceof Uint16Array ? 'u16' : 'f32';
  const max = { u8: 255, u16: 65535, f32: 1 }[type];
  const out = sharedSamples(type, toWidth * toHeight * channels);
  const read = lightOf(samples, coding);
  const alphaAt = withAlpha ? channels - 1 : -1;
  const wide = new Float32Array(width * channels);
  /** Of each sample of a row how much it counts: by its alpha, and nothing where it is missing. */
  const counts = new Float32Array(wide.length);

  /** @returns whether any of the row is missing */
  function take(from: number): boolean {
    for (let i = 0; i < wide.length; i++) wide[i] = read(samples[from + i]);
    if (withAlpha) timesAlpha(wide, samples, from, channels, max);
    let missing = false;
    if (type !== 'f32') return missing;
    for (let i = 0; i < wide.length; i++) {
      if (wide[i] === wide[i]) continue;
      if (!missing) {
        for (let k = 0; k < wide.length; k++) counts[k] = withAlpha ? wide[k - (k % channels) + alphaAt] : 1;
        missing = true;
      }
      wide[i] = counts[i] = 0;
    }
    return missing;
  }

  function across(of: Float32Array): Float32Array {
    const row = new Float32Array(toWidth * channels);
    columns.forEach(({ first, weights }, x) => {
      for (let c = 0; c < channels; c++) {
        let sum = 0;
        for (let k = 0; k < weights.length; k++) sum += weights[k] * of[(first + k) * channels + c];
        row[x * channels + c] = sum;
      }
    });
    return row;
  }

  const known = new Map<number, Row>();
  function rowAt(y: number): Row {
    let row = known.get(y);
    if (!row) {
      const missing = take(y * width * channels);
      known.set(y, (row = { sums: across(wide), there: missing ? across(counts) : null }));
    }
    return row;
  }

  rows.forEach(({ first, weights }, y) => {
    for (const at of known.keys()) if (at < first) known.delete(at);
    const sources = Array.from(weights, (_, k) => rowAt(first + k));
    const missing = sources.some(({ there }) => there);
    const at = y * toWidth * channels;
    for (let x = 0; x < toWidth; x++) {
      let alpha = 1;
      // Alpha stands last and is needed first.
      for (let c = channels - 1; c >= 0; c--) {
        const i = x * channels + c;
        let sum = 0;
        for (let k = 0; k < weights.length; k++) sum += weights[k] * sources[k].sums[i];
        if (c === alphaAt) alpha = sum;
        else {
          let weight = alpha;
          if (missing) {
            weight = 0;
            for (let k = 0; k < weights.length; k++) {
              const { there, sums } = sources[k];
              weight += weights[k] * (there ? there[i] : withAlpha ? sums[i - c + alphaAt] : 1);
            }
          }
          if (withAlpha || missing) sum = ofWeight(sum, weight, alpha);
        }
        const v = max * (c === alphaAt ? sum : coding.encode(sum));
        out[at + i] = type === 'f32' ? v : Math.min(max, Math.max(0, v + 0.5));
      }
    }
  });
  return out;
}

/** The mean that belongs to a sum: 0 where nothing can be seen, missing where too little is there of what can. */
function ofWeight(sum: number, weight: number, alpha: number): number {
  if (alpha <= 0) return 0;
  return weight >= ENOUGH * alpha ? sum / weight : Number.NaN;
}

/** Alpha as 0…1, and colours in proportion to it, so that what can't be seen does not count. */
function timesAlpha(row: Float32Array, samples: Samples, from: number, channels: number, max: number): void {
  for (let i = 0; i < row.length; i += channels) {
    const alpha = samples[from + i + channels - 1] / max;
    for (let c = 0; c < channels - 1; c++) row[i + c] *= alpha;
    row[i + channels - 1] = alpha;
  }
}
