import { sharedSamples, type Samples, type SampleType } from './frame';

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

/** Resamples interleaved `samples` by Lanczos 3 in both directions, in the same sample type. */
export function resample(
  samples: Samples,
  width: number,
  height: number,
  channels: number,
  toWidth: number,
  toHeight: number
): Samples {
  const columns = taps(width, toWidth);
  const rows = taps(height, toHeight);
  const type: SampleType =
    samples instanceof Uint8Array ? 'u8' : samples instanceof Uint16Array ? 'u16' : 'f32';
  const max = { u8: 255, u16: 65535, f32: Infinity }[type];
  const out = sharedSamples(type, toWidth * toHeight * channels);
  const narrow = new Map<number, Float32Array>();
  const narrowed = (y: number): Float32Array => {
    const known = narrow.get(y);
    if (known) return known;
    const row = new Float32Array(toWidth * channels);
    columns.forEach(({ first, weights }, x) => {
      for (let c = 0; c < channels; c++) {
        let sum = 0;
        for (let k = 0; k < weights.length; k++)
          sum += weights[k] * samples[(y * width + first + k) * channels + c];
        row[x * channels + c] = sum;
      }
    });
    narrow.set(y, row);
    return row;
  };
  rows.forEach(({ first, weights }, y) => {
    for (const known of narrow.keys()) if (known < first) narrow.delete(known);
    const sources = Array.from(weights, (_, k) => narrowed(first + k));
    for (let i = 0; i < toWidth * channels; i++) {
      let sum = 0;
      for (let k = 0; k < weights.length; k++) sum += weights[k] * sources[k][i];
      out[y * toWidth * channels + i] = type === 'f32' ? sum : Math.min(max, Math.max(0, sum + 0.5));
    }
  });
  return out;
}
