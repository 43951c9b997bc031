import type { MixRows } from '../ops/mix';
import type { PinReading } from '../ops/op';
import { luminance } from '../colour/derived';
import { decode, encode } from '../colour/transfer';
import { deltaE2000, fromNeutral, labOf } from './difference';

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
}

/** What a neutral pin weighs against a kept one of the same size. */
const NEUTRAL_WEIGHT = 400;
/** What staying as it is weighs, for each weight of a row. */
const STILL = 2e-3;
const LETTERS = ['r', 'g', 'b'] as const;

/**
 * Rows of an RGB mix that make the neutral pins neutral at their own luminance and move the kept pins least: least
 * squares with a pull towards the identity, each row's total held at 1 where asked (by a Lagrange multiplier).
 * @returns null without a neutral pin
 */
export function proposeMix(
  pins: readonly PinReading[],
  holdTotals: boolean,
  light: 'coded' | 'linear' = 'coded'
): MixProposal | null {
  const used = pins.filter(({ role }) => role === 'neutral' || role === 'keep');
  if (!used.some(({ role }) => role === 'neutral')) return null;
  const values = used.map(({ rgb }) => rgb.map((v) => (light === 'linear' ? decode(v) : v)));
  const rows: MixRows = {};
  const matrix = LETTERS.map((letter, out) => {
    const normal = [0, 1, 2].map((i) => [0, 1, 2].map((k) => (i === k ? STILL : 0)));
    const right = [0, 0, 0].map((_, i) => (i === out ? STILL : 0));
    used.forEach(({ role, size }, p) => {
      const v = values[p];
      const w = size * (role === 'neutral' ? NEUTRAL_WEIGHT : 1);
      const target = role === 'neutral' ? luminance(v[0], v[1], v[2]) : v[out];
      for (let i = 0; i < 3; i++) {
        for (let k = 0; k < 3; k++) normal[i][k] += w * v[i] * v[k];
        right[i] += w * v[i] * target;
      }
    });
    const held = normal.map((row) => [...row, 1]).concat([[1, 1, 1, 0]]);
    const found = holdTotals ? solve(held, [...right, 1]) : solve(normal, right);
    const row = (found ?? [0, 1, 2].map((i) => Number(i === out)))
      .slice(0, 3)
      .map((w) => Math.round(w * 1e4) / 1e4);
    // Rounding is made good where the row's own channel is, so that a held total is exact.
    if (holdTotals) row[out] += 1 - row.reduce((a, b) => a + b, 0);
    rows[letter] = { r: row[0], g: row[1], b: row[2] };
    return row;
  });
  const residuals = used.map(({ id, name, role, rgb }, p) => {
    const mixed = matrix.map((row) => row.reduce((sum, w, i) => sum + w * values[p][i], 0));
    const after = light === 'linear' ? mixed.map(encode) : mixed;
    return role === 'neutral'
      ? { id, name, role, before: fromNeutral(rgb), after: fromNeutral(after) }
      : { id, name, role, before: 0, after: deltaE2000(labOf(rgb), labOf(after)) };
  });
  return { rows, residuals };
}

/** The least and the most that `separate` gives a channel. */
const [LEAST, MOST] = [-1, 2];

/**
 * Weights of red, green and blue, totalling 1 and each from −1 to 2, that drive the pins to have and the pins to avoid
 * furthest apart in grey, with the greys of all of them within 0…1. A linear programme in two unknowns: the best of the
 * corners that its bounds make.
 * @returns null without a pin of each role
 */
export function separate(pins: readonly PinReading[]): Record<string, number> | null {
  const meanOf = (role: string): number[] | null => {
    const some = pins.filter((p) => p.role === role);
    const weight = some.reduce((sum, p) => sum + p.size, 0);
    return weight > 0
      ? [0, 1, 2].map((c) => some.reduce((sum, p) => sum + p.size * p.rgb[c], 0) / weight)
      : null;
  };
  const [want, avoid] = [meanOf('want'), meanOf('avoid')];
  if (!want || !avoid) return null;
  // a·w_r + b·w_g ≤ c, with w_b = 1 − w_r − w_g.
  const bounds: [number, number, number][] = [
    [1, 0, MOST],
    [-1, 0, -LEAST],
    [0, 1, MOST],
    [0, -1, -LEAST],
    [-1, -1, MOST - 1],
    [1, 1, 1 - LEAST]
  ];
  for (const { rgb, role } of pins) {
    if (role !== 'want' && role !== 'avoid') continue;
    const [r, g, b] = rgb.map((v) => Math.min(1, Math.max(0, v)));
    bounds.push([r - b, g - b, 1 - b], [b - r, b - g, b]);
  }
  const apart = (r: number, g: number): number => {
    const b = 1 - r - g;
    return Math.abs(r * (want[0] - avoid[0]) + g * (want[1] - avoid[1]) + b * (want[2] - avoid[2]));
  };
  let best = { r: 1 / 3, g: 1 / 3, apart: apart(1 / 3, 1 / 3), size: Infinity };
  bounds.forEach(([a1, b1, c1], i) => {
    for (const [a2, b2, c2] of bounds.slice(i + 1)) {
      const found = solve(
        [
          [a1, b1],
          [a2, b2]
        ],
        [c1, c2]
      );
      if (!found || bounds.some(([a, b, c]) => a * found[0] + b * found[1] > c + 1e-9)) continue;
      const [r, g] = found;
      const size = r * r + g * g + (1 - r - g) ** 2;
      const gain = apart(r, g) - best.apart;
      // Of corners that are as good, the one with the gentler weights.
      if (gain > 1e-9 || (Math.abs(gain) <= 1e-9 && size < best.size))
        best = { r, g, apart: apart(r, g), size };
    }
  });
  const round = (w: number): number => Math.round(w * 1e4) / 1e4;
  const [r, g] = [round(best.r), round(best.g)];
  return { 'rgb.r': r, 'rgb.g': g, 'rgb.b': round(1 - r - g) };
}
