import type { MixRows } from '../ops/mix';
import type { PinReading } from '../ops/op';
import type { Encoding } from '../colour';
import { luminance } from '../colour/derived';
import { decode, encode } from '../colour/transfer';
import { deltaE2000, fromNeutral, labOf, rgbOfLab } from './difference';

/** Solves a small square system by elimination with pivots; null where it has no single solution. */
function solve(matrix: readonly (readonly number[])[], right: readonly number[]): number[] | null {
  const n = right.length;
  const rows = matrix.map((row, i) => [...row, right[i]]);
  for (let c = 0; c < n; c++) {
    const pivot = rows.reduce(
      (best, row, i) => (i >= c && Math.abs(row[c]) > Math.abs(rows[best][c]) ? i : best),
      c
    );
    if (Math.abs(rows[pivot][c]) < 1e-12) return null;
    [rows[c], rows[pivot]] = [rows[pivot], rows[c]];
    for (let i = 0; i < n; i++) {
      if (i === c) continue;
      const factor = rows[i][c] / rows[c][c];
      for (let k = c; k <= n; k++) rows[i][k] -= factor * rows[c][k];
    }
  }
  return rows.map((row, i) => row[n] / row[i]);
}

/** How far a pin is from what it should be: a neutral one from grey, a kept one from where it was, in ΔE 2000. */
export interface Residual {
  readonly id: string;
  readonly name: string;
  readonly role: string;
  readonly before: number;
  readonly after: number;
}

export interface MixProposal {
  readonly rows: MixRows;
  readonly residuals: readonly Residual[];
  /** What the rows make of an RGB colour. */
  apply(rgb: readonly number[]): readonly number[];
}

/** What a neutral pin weighs against a kept one of the same size. */
const NEUTRAL_WEIGHT = 400;
/** What staying as it is weighs, for each weight of a row. */
const STILL = 2e-3;

/** The values that a mix works on, between RGB and its rows, and where a neutral pin has to go. */
interface Space {
  readonly letters: readonly string[];
  /** Letters of the rows that are solved; the others stay as they are. */
  readonly solved: readonly string[];
  /** The rows may add a constant: a cast lies beside the middle of an axis that has one. */
  readonly constant: boolean;
  to(rgb: readonly number[]): readonly number[];
  from(values: readonly number[]): readonly number[];
  neutral(values: readonly number[]): readonly number[];
}

const grey = ([r, g, b]: readonly number[]): readonly number[] => {
  const y = luminance(r, g, b);
  return [y, y, y];
};
const primaries = { letters: ['r', 'g', 'b'], solved: ['r', 'g', 'b'], constant: false, neutral: grey };
const AB = 128;

const asTheyStand: Space = { ...primaries, to: (rgb) => rgb, from: (values) => values };
const decoded: Space = { ...primaries, to: (rgb) => rgb.map(decode), from: (values) => values.map(encode) };
const labSpace = (encoding: Encoding): Space => ({
  letters: ['l', 'a', 'b'],
  solved: ['a', 'b'],
  constant: true,
  neutral: ([l]) => [l, 0, 0],
  to(rgb) {
    const [l, a, b] = labOf(rgb, encoding);
    return [l / 100, a / AB, b / AB];
  },
  from: ([l, a, b]) => rgbOfLab([l * 100, a * AB, b * AB], encoding)
});

function spaceOf(within: 'coded' | 'linear' | 'lab', encoding: Encoding): Space {
  if (within === 'lab') return labSpace(encoding);
  return within === 'linear' && encoding === 'coded' ? decoded : asTheyStand;
}

/**
 * Rows of a mix that make the neutral pins neutral at their own luminance (in LAB: lightness) and move the kept pins least: least
 * squares with a pull towards the identity, each row's total held at 1 where asked (by a Lagrange multiplier). In LAB the rows of
 * a and b are solved, each with a constant, and totals mean nothing.
 * @returns null without a neutral pin
 */
export function proposeMix(
  pins: readonly PinReading[],
  holdTotals: boolean,
  within: 'coded' | 'linear' | 'lab',
  encoding: Encoding
): MixProposal | null {
  const used = pins.filter(({ role }) => role === 'neutral' || role === 'keep');
  if (!used.some(({ role }) => role === 'neutral')) return null;
  const { letters, solved, constant, to, from, neutral } = spaceOf(within, encoding);
  const hold = holdTotals && !constant;
  const values = used.map(({ rgb }) => to(rgb));
  const rows: MixRows = {};
  const matrix = letters.map((letter, out) => {
    const own = letters.map((_, i) => Number(i === out)).concat(constant ? [0] : []);
    if (!solved.includes(letter)) return own;
    const normal = own.map((_, i) => own.map((_, k) => (i === k ? STILL : 0)));
    const right = own.map((v) => STILL * v);
    used.forEach(({ role, size }, p) => {
      const v = constant ? [...values[p], 1] : values[p];
      const w = size * (role === 'neutral' ? NEUTRAL_WEIGHT : 1);
      const target = (role === 'neutral' ? neutral(values[p]) : values[p])[out];
      own.forEach((_, i) => {
        own.forEach((_, k) => (normal[i][k] += w * v[i] * v[k]));
        right[i] += w * v[i] * target;
      });
    });
    const held = normal.map((row) => [...row, 1]).concat([[...own.map(() => 1), 0]]);
    const found = hold ? solve(held, [...right, 1]) : solve(normal, right);
    const row = (found ?? own).slice(0, own.length).map((w) => Math.round(w * 1e4) / 1e4);
    // Rounding is made good where the row's own channel is, so that a held total is exact.
    if (hold) row[out] += 1 - row.reduce((a, b) => a + b, 0);
    rows[letter] = Object.fromEntries(row.map((w, i) => [letters[i] ?? 'constant', w]));
    return row;
  });
  const apply = (rgb: readonly number[]): readonly number[] => {
    const v = [...to(rgb), 1];
    return from(matrix.map((row) => row.reduce((sum, w, i) => sum + w * v[i], 0)));
  };
  const residuals = used.map(({ id, name, role, rgb }) => {
    const after = apply(rgb);
    return role === 'neutral'
      ? { id, name, role, before: fromNeutral(rgb, encoding), after: fromNeutral(after, encoding) }
      : { id, name, role, before: 0, after: deltaE2000(labOf(rgb, encoding), labOf(after, encoding)) };
  });
  return { rows, residuals, apply };
}

/** The least and the most that `separate` gives a channel, and that a pin may become. */
const [LEAST, MOST] = [-1, 2];
const [DARKEST, LIGHTEST] = [0.02, 0.98];
/** Weights that drive the pins this much less apart are as good, if they clip less. */
const AS_GOOD = 0.005;
const GRID = 0.02;

export interface SeparateProposal {
  readonly weights: Readonly<Record<'rgb.r' | 'rgb.g' | 'rgb.b', number>>;
  /** Greys of the pins to have and of those to avoid, their means weighed by size. */
  readonly want: number;
  readonly avoid: number;
  /** The part of the picture's samples that become black or white altogether, 0…1. */
  readonly clipped: number;
}

type Weights = readonly [number, number, number];
const greyBy = ([r, g, b]: Weights, rgb: readonly number[]): number => r * rgb[0] + g * rgb[1] + b * rgb[2];

function clippedBy(weights: Weights, samples: readonly (readonly number[])[]): number {
  if (samples.length === 0) return 0;
  const over = samples.filter((rgb) => {
    const grey = greyBy(weights, rgb);
    return grey <= 0 || grey >= 1;
  });
  return over.length / samples.length;
}

/**
 * Weights of red, green and blue, totalling 1 and each from −1 to 2, that make the pins to have as much lighter than the pins
 * to avoid as can be, the greys of all of them within 2…98 %: a linear programme in two unknowns, the best of the corners
 * that its bounds make. Of weights that are as good within half a percent, those that clip least of the picture count, then
 * the gentlest.
 * @param samples RGB of places all over the picture
 * @returns null without a pin of each role, or where no weights make the wanted pins lighter
 */
export function separate(
  pins: readonly PinReading[],
  samples: readonly (readonly number[])[] = []
): SeparateProposal | null {
  const meanOf = (role: string): number[] | null => {
    const some = pins.filter((p) => p.role === role);
    const weight = some.reduce((sum, p) => sum + p.size, 0);
    return weight > 0
      ? [0, 1, 2].map((c) => some.reduce((sum, p) => sum + p.size * p.rgb[c], 0) / weight)
      : null;
  };
  const [want, avoid] = [meanOf('want'), meanOf('avoid')];
  if (!want || !avoid) return null;
  const bounds = boundsOf(pins.filter(({ role }) => role === 'want' || role === 'avoid'));
  const inside = ([r, g]: readonly number[]): boolean =>
    bounds.every(([a, b, c]) => a * r + b * g <= c + 1e-9);
  const full = ([r, g]: readonly number[]): Weights => [r, g, 1 - r - g];
  const apart = (weights: Weights): number => greyBy(weights, want) - greyBy(weights, avoid);
  const corners = bounds.flatMap(([a1, b1, c1], i) =>
    bounds.slice(i + 1).flatMap(([a2, b2, c2]) => {
      const found = solve(
        [
          [a1, b1],
          [a2, b2]
        ],
        [c1, c2]
      );
      return found && inside(found) ? [full(found)] : [];
    })
  );
  const most = Math.max(...corners.map(apart));
  if (!(most > 0)) return null;
  const good = corners.filter((weights) => apart(weights) >= most - 1e-9);
  if (samples.length > 0) {
    for (let r = LEAST; r <= MOST; r += GRID) {
      for (let g = LEAST; g <= MOST; g += GRID) {
        const weights = full([r, g]);
        if (apart(weights) >= most - AS_GOOD && inside(weights)) good.push(weights);
      }
    }
  }
  const sizeOf = (weights: Weights): number => weights.reduce((sum, w) => sum + w * w, 0);
  const [{ weights, clipped }] = good
    .map((weights) => ({ weights, clipped: clippedBy(weights, samples), size: sizeOf(weights) }))
    .sort((a, b) => a.clipped - b.clipped || a.size - b.size);
  const [r, g] = weights.map((w) => Math.round(w * 1e4) / 1e4);
  const b = Math.round((1 - r - g) * 1e4) / 1e4;
  const rounded: Weights = [r, g, b];
  return {
    weights: { 'rgb.r': r, 'rgb.g': g, 'rgb.b': b },
    want: greyBy(rounded, want),
    avoid: greyBy(rounded, avoid),
    clipped
  };
}

/** a·w_r + b·w_g ≤ c, with w_b = 1 − w_r − w_g: what each weight may be, and the grey of each pin. */
function boundsOf(pins: readonly PinReading[]): [number, number, number][] {
  return [
    [1, 0, MOST],
    [-1, 0, -LEAST],
    [0, 1, MOST],
    [0, -1, -LEAST],
    [-1, -1, MOST - 1],
    [1, 1, 1 - LEAST],
    ...pins.flatMap(({ rgb }): [number, number, number][] => {
      const [r, g, b] = rgb;
      // A pin that is darker or lighter than that as it is may stay so: a third of each always will do.
      const mean = (r + g + b) / 3;
      return [
        [r - b, g - b, Math.max(LIGHTEST, mean) - b],
        [b - r, b - g, b - Math.min(DARKEST, mean)]
      ];
    })
  ];
}
