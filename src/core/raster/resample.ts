import { decode, encode, exactDecode } from '../colour/transfer';
import type { Encoding } from '../colour';
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

/** What the samples of a pixel are: colours, whose light is averaged (with alpha behind them or not), or plain values. */
export type Resampled = 'colours' | 'colours and alpha' | 'values';

/** Each sample as it is averaged: the light of coded ones, by a table for integers. */
function averagedAs(samples: Samples, kind: Resampled, encoding: Encoding): (v: number) => number {
  if (kind === 'values') return (v) => v;
  if (encoding === 'linear') return (v) => v * sampleScale(samples);
  if (samples instanceof Float32Array) return decode;
  const scale = sampleScale(samples);
  const table = Float32Array.from({ length: 1 / scale + 1.5 }, (_, i) => exactDecode(i * scale));
  return (v) => table[v];
}

/**
 * Resamples interleaved `samples` by Lanczos 3 in both directions, in the same sample type. Colours are averaged as light,
 * each by as much as its alpha says; values as they stand.
 */
export function resample(
  samples: Samples,
  width: number,
  height: number,
  channels: number,
  toWidth: number,
  toHeight: number,
  kind: Resampled = 'colours',
  encoding: Encoding = 'coded'
): Samples {
  const columns = taps(width, toWidth);
  const rows = taps(height, toHeight);
  const type: SampleType =
    samples instanceof Uint8Array ? 'u8' : samples instanceof Uint16Array ? 'u16' : 'f32';
  const max = { u8: 255, u16: 65535, f32: 1 }[type];
  const out = sharedSamples(type, toWidth * toHeight * channels);
  const read = averagedAs(samples, kind, encoding);
  const code = encoding === 'linear' ? (v: number): number => v : encode;
  const alphaAt = kind === 'colours and alpha' ? channels - 1 : -1;
  const wide = new Float32Array(width * channels);
  const narrow = new Map<number, Float32Array>();
  const narrowed = (y: number): Float32Array => {
    const known = narrow.get(y);
    if (known) return known;
    const from = y * width * channels;
    for (let i = 0; i < wide.length; i++) wide[i] = read(samples[from + i]);
    if (alphaAt >= 0) timesAlpha(wide, samples, from, channels, max);
    const row = new Float32Array(toWidth * channels);
    columns.forEach(({ first, weights }, x) => {
      for (let c = 0; c < channels; c++) {
        let sum = 0;
        for (let k = 0; k < weights.length; k++) sum += weights[k] * wide[(first + k) * channels + c];
        row[x * channels + c] = sum;
      }
    });
    narrow.set(y, row);
    return row;
  };
  const scale = kind === 'values' ? 1 : max;
  rows.forEach(({ first, weights }, y) => {
    for (const known of narrow.keys()) if (known < first) narrow.delete(known);
    const sources = Array.from(weights, (_, k) => narrowed(first + k));
    const at = y * toWidth * channels;
    for (let x = 0; x < toWidth; x++) {
      let alpha = 1;
      // Alpha stands last and is needed first.
      for (let c = channels - 1; c >= 0; c--) {
        const i = x * channels + c;
        let sum = 0;
        for (let k = 0; k < weights.length; k++) sum += weights[k] * sources[k][i];
        if (c === alphaAt) alpha = sum;
        else if (alphaAt >= 0) sum = alpha > 0 ? sum / alpha : 0;
        const v = scale * (kind === 'values' || c === alphaAt ? sum : code(sum));
        out[at + i] = type === 'f32' ? v : Math.min(max, Math.max(0, v + 0.5));
      }
    }
  });
  return out;
}

/** Alpha as 0…1, and colours in proportion to it, so that what can't be seen does not count. */
function timesAlpha(row: Float32Array, samples: Samples, from: number, channels: number, max: number): void {
  for (let i = 0; i < row.length; i += channels) {
    const alpha = samples[from + i + channels - 1] / max;
    for (let c = 0; c < channels - 1; c++) row[i + c] *= alpha;
    row[i + channels - 1] = alpha;
  }
}
