import type { Geometry } from './geometry';
import type { Raster, Rect } from './raster';

const LOBES = 3;
const TAPS = 2 * LOBES;
const PHASES = 1024;

const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

function makeTable(): Float64Array {
  const table = new Float64Array(TAPS * (PHASES + 2));
  for (let phase = 0; phase <= PHASES + 1; phase++) {
    const t = Math.min(phase, PHASES) / PHASES;
    const raw = Array.from({ length: TAPS }, (_, k) => {
      const d = t - (k - 2);
      return Math.abs(d) < LOBES ? sinc(d) * sinc(d / LOBES) : 0;
    });
    const sum = raw.reduce((a, b) => a + b, 0);
    raw.forEach((w, k) => (table[TAPS * phase + k] = w / sum));
  }
  return table;
}

/** Lanczos 3 weights of the samples at −2…3 about a place 0…1 right of sample 0, summing to 1, for each phase; made when first used. */
let lanczosTable: Float64Array | null = null;

/** The weights at a place between two phases, straight between them: within 2e-6 of the exact ones. */
function lanczosWeights(table: Float64Array, t: number, weights: Float64Array): void {
  const at = t * PHASES;
  const phase = at | 0;
  const part = at - phase;
  const i = TAPS * phase;
  for (let k = 0; k < TAPS; k++) weights[k] = table[i + k] + (table[i + k + TAPS] - table[i + k]) * part;
}

interface Size {
  readonly width: number;
  readonly height: number;
}

/** Size of a level of what a picture lies on. */
const levelSize = ({ width, height }: Size, level: number): Size => ({
  width: Math.ceil(width / 2 ** level),
  height: Math.ceil(height / 2 ** level)
});

/** The part of a level of its head that a picture's samples over `out` are made of; null where all lie beside it. */
export function turnedWindow(head: Size, geometry: Geometry, level: number, out: Rect): Rect | null {
  const size = 2 ** level;
  const m = geometry.toFrame;
  const at = (x: number, y: number): readonly [number, number] => {
    const [px, py] = [(x + 0.5) * size, (y + 0.5) * size];
    const w = m[6] * px + m[7] * py + m[8];
    return [(m[0] * px + m[1] * py + m[2]) / w / size - 0.5, (m[3] * px + m[4] * py + m[5]) / w / size - 0.5];
  };
  const { width, height } = levelSize(head, level);
  return windowOf(out, at, width, height);
}

/**
 * Reads a picture that lies turned, in perspective or cropped on its head: every sample of `out` by Lanczos 3 (Duchon
 * 1979) from the same level of the head. What lies beside the head is `beyond`; its edge samples go on for the filter.
 * Beside missing samples it is straight between the four nearest, over those that are there; where the nearest is missing,
 * the result is. Alpha stays within 0…1.
 * @param window as `turnedWindow` gives it @param read fills a raster over it with the head's samples
 */
export function readTurned(
  head: Size,
  geometry: Geometry,
  level: number,
  out: Raster,
  window: Rect | null,
  read: (source: Raster) => void,
  beyond = 0
): void {
  for (const plane of out.planes) plane.fill(beyond);
  out.alpha?.fill(0);
  if (!window) return;
  const n = window.width * window.height;
  const source: Raster = {
    ...window,
    planes: [0, 1, 2].map(() => new Float32Array(n)),
    encoding: out.encoding,
    alpha: out.alpha ? new Float32Array(n) : null
  };
  read(source);
  const sources = source.alpha ? [...source.planes, source.alpha] : source.planes;
  const targets = out.alpha ? [...out.planes, out.alpha] : out.planes;
  const { width, height } = levelSize(head, level);
  sample(sources, window, targets, out, geometry.toFrame, 2 ** level, width, height);
  if (out.alpha) for (let i = 0; i < out.alpha.length; i++) out.alpha[i] = clamp(out.alpha[i]);
}

const clamp = (v: number): number => (v > 0 ? (v < 1 ? v : 1) : 0);

/** Straight between the four nearest of a plane's samples, over those that are there; missing where the nearest is. */
function between(
  plane: Float32Array,
  stride: number,
  columns: Int32Array,
  top: number,
  firstLine: number,
  height: number,
  right: number,
  low: number
): number {
  const row = (line: number): number => (Math.min(height - 1, Math.max(0, line)) - firstLine) * stride;
  const rows = [row(top), row(top + 1)];
  const nearest = plane[rows[low < 0.5 ? 0 : 1] + columns[right < 0.5 ? 2 : 3]];
  if (nearest !== nearest) return Number.NaN;
  let sum = 0;
  let weights = 0;
  for (const [j, wy] of [1 - low, low].entries()) {
    for (const [k, wx] of [1 - right, right].entries()) {
      const v = plane[rows[j] + columns[2 + k]];
      if (v !== v) continue;
      sum += wx * wy * v;
      weights += wx * wy;
    }
  }
  return sum / weights;
}

/** The part of the level that the samples of `out` are made of; null where all lie beside it. */
function windowOf(
  out: Rect,
  at: (x: number, y: number) => readonly [number, number],
  width: number,
  height: number
): Rect | null {
  const xs: number[] = [];
  const ys: number[] = [];
  for (const x of [out.x - 1, out.x + out.width]) {
    for (const y of [out.y - 1, out.y + out.height]) {
      const [u, v] = at(x, y);
      xs.push(u);
      ys.push(v);
    }
  }
  const left = Math.max(0, Math.floor(Math.min(...xs)) - LOBES);
  const top = Math.max(0, Math.floor(Math.min(...ys)) - LOBES);
  const right = Math.min(width, Math.ceil(Math.max(...xs)) + LOBES + 1);
  const bottom = Math.min(height, Math.ceil(Math.max(...ys)) + LOBES + 1);
  return right > left && bottom > top ? { x: left, y: top, width: right - left, height: bottom - top } : null;
}

function sample(
  sources: readonly Float32Array[],
  window: Rect,
  targets: readonly Float32Array[],
  out: Rect,
  m: Geometry['toFrame'],
  size: number,
  width: number,
  height: number
): void {
  const table = (lanczosTable ??= makeTable());
  const across = new Float64Array(TAPS);
  const down = new Float64Array(TAPS);
  const columns = new Int32Array(TAPS);
  const count = sources.length;
  for (let y = 0, i = 0; y < out.height; y++) {
    for (let x = 0; x < out.width; x++, i++) {
      const px = (out.x + x + 0.5) * size;
      const py = (out.y + y + 0.5) * size;
      const w = 1 / ((m[6] * px + m[7] * py + m[8]) * size);
      const u = (m[0] * px + m[1] * py + m[2]) * w - 0.5;
      const v = (m[3] * px + m[4] * py + m[5]) * w - 0.5;
      if (!(u >= -0.5 && v >= -0.5 && u <= width - 0.5 && v <= height - 0.5)) continue;
      // Places that are whole but for rounding are taken as whole, so that a mere crop copies its samples.
      const ru = Math.round(u);
      const rv = Math.round(v);
      const whole = Math.abs(u - ru) < 1e-6 && Math.abs(v - rv) < 1e-6;
      const left = whole ? ru : Math.floor(u);
      const top = whole ? rv : Math.floor(v);
      if (whole) {
        const from = (top - window.y) * window.width + left - window.x;
        for (let c = 0; c < count; c++) targets[c][i] = sources[c][from];
        continue;
      }
      lanczosWeights(table, u - left, across);
      lanczosWeights(table, v - top, down);
      for (let k = 0; k < TAPS; k++) {
        const column = left + k - 2;
        columns[k] = (column < 0 ? 0 : column < width ? column : width - 1) - window.x;
      }
      for (let c = 0; c < count; c++) {
        const plane = sources[c];
        let total = 0;
        for (let j = 0; j < TAPS; j++) {
          const line = top + j - 2;
          const row = ((line < 0 ? 0 : line < height ? line : height - 1) - window.y) * window.width;
          total +=
            down[j] *
            (across[0] * plane[row + columns[0]] +
              across[1] * plane[row + columns[1]] +
              across[2] * plane[row + columns[2]] +
              across[3] * plane[row + columns[3]] +
              across[4] * plane[row + columns[4]] +
              across[5] * plane[row + columns[5]]);
        }
        targets[c][i] =
          total === total
            ? total
            : between(plane, window.width, columns, top, window.y, height, u - left, v - top);
      }
    }
  }
}
