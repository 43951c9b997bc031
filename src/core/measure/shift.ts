import FFT from 'fft.js';

export interface Shift {
  /** How far the second picture has moved against the first, right and down, in samples. */
  readonly x: number;
  readonly y: number;
  /** How sure it is: the peak's height over the typical height beside it. */
  readonly certainty: number;
}

/** A square of complex numbers, `side` a power of two, row by row, real and imaginary part one after the other. */
interface Square {
  readonly side: number;
  readonly values: Float32Array;
}

/** Fourier transform of a square, in place of its rows and then its columns; complex, interleaved. */
function transform({ side, values }: Square): Float64Array {
  const fft = new FFT(side);
  const out = new Float64Array(2 * side * side);
  const row = fft.createComplexArray() as number[];
  const result = fft.createComplexArray() as number[];
  // A soft window: the square's edges are no edges of the picture.
  const window = Float64Array.from(
    { length: side },
    (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / side)
  );
  for (let y = 0; y < side; y++) {
    for (let x = 0; x < side; x++) {
      const w = window[x] * window[y];
      row[2 * x] = values[2 * (y * side + x)] * w;
      row[2 * x + 1] = values[2 * (y * side + x) + 1] * w;
    }
    fft.transform(result, row);
    out.set(result, 2 * side * y);
  }
  columns(out, side, (input, output) => fft.transform(output, input));
  return out;
}

function columns(data: Float64Array, side: number, work: (input: number[], output: number[]) => void): void {
  const input = new Array<number>(2 * side);
  const output = new Array<number>(2 * side);
  for (let x = 0; x < side; x++) {
    for (let y = 0; y < side; y++) {
      input[2 * y] = data[2 * (y * side + x)];
      input[2 * y + 1] = data[2 * (y * side + x) + 1];
    }
    work(input, output);
    for (let y = 0; y < side; y++) {
      data[2 * (y * side + x)] = output[2 * y];
      data[2 * (y * side + x) + 1] = output[2 * y + 1];
    }
  }
}

/**
 * How far one picture has moved against another, by phase correlation (Kuglin & Hines 1975) of pairs of squares cut at the
 * same places, their spectra's phases added; the peak to a part of a sample by the centre of gravity about it. Does not
 * depend on how bright either picture is.
 * @param pairs squares of one size; of exposures, their edges rather than their tones
 */
export function phaseCorrelation(pairs: readonly (readonly [Square, Square])[]): Shift {
  const side = pairs[0][0].side;
  const sum = new Float64Array(2 * side * side);
  for (const [first, second] of pairs) {
    const [a, b] = [transform(first), transform(second)];
    for (let i = 0; i < sum.length; i += 2) {
      // conj(A)·B: its phase rises with the way from the first to the second.
      const re = a[i] * b[i] + a[i + 1] * b[i + 1];
      const im = a[i] * b[i + 1] - a[i + 1] * b[i];
      const size = Math.hypot(re, im);
      if (size > 1e-12) {
        sum[i] += re / size;
        sum[i + 1] += im / size;
      }
    }
  }
  // High frequencies are mostly grain: they weigh less.
  const weigh = (k: number): number => Math.exp(-(((k > side / 2 ? side - k : k) / (0.22 * side)) ** 2));
  for (let v = 0; v < side; v++) {
    for (let u = 0; u < side; u++) {
      const w = weigh(u) * weigh(v);
      sum[2 * (v * side + u)] *= w;
      sum[2 * (v * side + u) + 1] *= w;
    }
  }
  const fft = new FFT(side);
  const row = new Array<number>(2 * side);
  const result = new Array<number>(2 * side);
  for (let y = 0; y < side; y++) {
    for (let i = 0; i < 2 * side; i++) row[i] = sum[2 * side * y + i];
    fft.inverseTransform(result, row);
    sum.set(result, 2 * side * y);
  }
  columns(sum, side, (input, output) => fft.inverseTransform(output, input));
  return peakOf(sum, side);
}

const AROUND = 2;

function peakOf(field: Float64Array, side: number): Shift {
  const at = (x: number, y: number): number => field[2 * (((y + side) % side) * side + ((x + side) % side))];
  let best = 0;
  let energy = 0;
  for (let i = 0; i < side * side; i++) {
    energy += field[2 * i] ** 2;
    if (field[2 * i] > field[2 * best]) best = i;
  }
  const [px, py] = [best % side, Math.floor(best / side)];
  // A Gaussian stands on the peak: its middle from the logarithms of three neighbours each way.
  const middle = (l: number, c: number, r: number): number => {
    if (!(l > 0 && c > 0 && r > 0)) return 0;
    const [a, b, d] = [Math.log(l), Math.log(c), Math.log(r)];
    const bend = a - 2 * b + d;
    return Math.abs(bend) < 1e-9 ? 0 : Math.min(AROUND, Math.max(-AROUND, (0.5 * (a - d)) / bend));
  };
  const dx = middle(at(px - 1, py), at(px, py), at(px + 1, py));
  const dy = middle(at(px, py - 1), at(px, py), at(px, py + 1));
  const signed = (v: number): number => (v > side / 2 ? v - side : v);
  return {
    x: signed(px) + dx,
    y: signed(py) + dy,
    certainty: field[2 * best] / Math.sqrt(energy / (side * side))
  };
}

/**
 * The gradient of a grey plane's logarithm as complex numbers (Argyriou & Vlachos 2003): edges, however bright, each way
 * on its own; 0 along the border.
 */
export function edges(plane: Float32Array, side: number): Square {
  const values = new Float32Array(2 * side * side);
  const tone = (i: number): number => Math.log(0.01 + Math.max(0, plane[i]));
  for (let y = 1; y < side - 1; y++) {
    for (let x = 1; x < side - 1; x++) {
      const i = y * side + x;
      values[2 * i] = tone(i + 1) - tone(i - 1);
      values[2 * i + 1] = tone(i + side) - tone(i - side);
    }
  }
  return { side, values };
}
