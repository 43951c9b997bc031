import { fillChannels, channelOf, type Encoding, type Planes } from '../colour';
import type { CurvePoint } from '../curve';
import type { MaskSource } from '../document';
import { oklab, oklabFromLab } from '../mask/oklab';
import { decode } from '../colour/transfer';

/** One way to tell two sets of samples apart: a mask source, how well it does, and the curve that makes a mask of it. */
export interface Candidate {
  readonly source: MaskSource;
  readonly name: string;
  /** Area under the ROC curve, ½ … 1: the chance that a wanted sample lies on the right side of one to avoid. */
  readonly auc: number;
  readonly curve: readonly CurvePoint[];
}

/** Channels that are tried, alone and two by two; hues go round and are left to the distances. */
const singles = [
  ...['rgb.r', 'rgb.g', 'rgb.b', 'lab.l', 'lab.a', 'lab.b', 'cmyk.c', 'cmyk.m', 'cmyk.y', 'cmyk.k'],
  ...['hsv.s', 'hsv.v', 'lch.c', 'lum', 'warm']
];
/** Those that no other of the list is a mere function of: what a mix of two is made of. */
const mixed = ['rgb.r', 'rgb.g', 'rgb.b', 'lab.a', 'lab.b', 'lch.c', 'hsv.s'];

/**
 * Area under the ROC curve of two sets: the part of all pairs in which the wanted value is the larger, ties counting half
 * (the statistic of Mann & Whitney 1947). ½ where a set is empty.
 */
export function areaUnderRoc(want: ArrayLike<number>, avoid: ArrayLike<number>): number {
  const [n, m] = [want.length, avoid.length];
  if (n === 0 || m === 0) return 0.5;
  const a = Float64Array.from(want).sort();
  const b = Float64Array.from(avoid).sort();
  let below = 0;
  let through = 0;
  let sum = 0;
  for (const v of a) {
    while (below < m && b[below] < v) below++;
    while (through < m && b[through] <= v) through++;
    sum += below + (through - below) / 2;
  }
  return sum / (n * m);
}

/** The value below which a part 0…1 of a sorted list lies, straight between its members. */
function quantile(sorted: Float64Array, part: number): number {
  const at = part * (sorted.length - 1);
  const i = Math.floor(at);
  return sorted[i] + (at - i) * ((sorted[i + 1] ?? sorted[i]) - sorted[i]);
}

const LEAST_RISE = 0.004;
const rounded = (v: number): number => Math.round(v * 1e4) / 1e4;
const within = (v: number): number => Math.min(1, Math.max(0, v));

/**
 * The transition that parts two sets of values of 0…1: 0 on the side of those to avoid, 1 on that of the wanted. Where a
 * gap lies between them it rises within the gap, nearer to the wanted; where they overlap it rises over the overlap.
 */
export function transition(want: ArrayLike<number>, avoid: ArrayLike<number>): CurvePoint[] {
  const rises = areaUnderRoc(want, avoid) >= 0.5;
  const turned = (v: number): number => (rises ? v : 1 - v);
  const a = Float64Array.from(want, turned).sort();
  const b = Float64Array.from(avoid, turned).sort();
  const low = quantile(b, 0.98);
  const high = quantile(a, 0.02);
  let [from, to] =
    high > low
      ? [low + 0.3 * (high - low), low + 0.8 * (high - low)]
      : [(low + high) / 2 - 0.25 * (low - high), (low + high) / 2 + 0.25 * (low - high)];
  if (to - from < LEAST_RISE) [from, to] = [(from + to - LEAST_RISE) / 2, (from + to + LEAST_RISE) / 2];
  const [x0, x1] = [within(from), Math.max(within(from) + LEAST_RISE, within(to))];
  const ends: CurvePoint[] = rises
    ? [
        [x0, 0],
        [x1, 1]
      ]
    : [
        [1 - x1, 1],
        [1 - x0, 0]
      ];
  const points: CurvePoint[] = ends.map(([x, y]) => [rounded(Math.min(1, Math.max(0, x))), y]);
  const first = points[0];
  const last = points[points.length - 1];
  return [
    ...(first[0] > 1e-3 ? [[0, first[1]] as CurvePoint] : []),
    ...points,
    ...(last[0] < 1 - 1e-3 ? [[1, last[1]] as CurvePoint] : [])
  ];
}

const meanOf = (values: ArrayLike<number>): number => {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i];
  return sum / values.length;
};

function covariance(x: Float32Array, y: Float32Array): number {
  const [mx, my] = [meanOf(x), meanOf(y)];
  let sum = 0;
  for (let i = 0; i < x.length; i++) sum += (x[i] - mx) * (y[i] - my);
  return sum / x.length;
}

/** What keeps the discriminant sane where a channel does not vary at all. */
const FLOOR = 1e-5;

/**
 * Fisher's linear discriminant (1936) of two channels: the weights w = S⁻¹(mean wanted − mean avoided), S the two sets'
 * covariances added, and how far apart they drive the means, in standard deviations.
 */
export function discriminant(
  want: readonly [Float32Array, Float32Array],
  avoid: readonly [Float32Array, Float32Array]
): { weights: readonly [number, number]; apart: number } {
  const d = [0, 1].map((c) => meanOf(want[c]) - meanOf(avoid[c]));
  const s = (i: 0 | 1, k: 0 | 1): number =>
    covariance(want[i], want[k]) + covariance(avoid[i], avoid[k]) + (i === k ? FLOOR : 0);
  const [s00, s01, s11] = [s(0, 0), s(0, 1), s(1, 1)];
  const det = s00 * s11 - s01 * s01;
  const weights = [(s11 * d[0] - s01 * d[1]) / det, (s00 * d[1] - s01 * d[0]) / det] as const;
  return { weights, apart: Math.sqrt(Math.max(0, weights[0] * d[0] + weights[1] * d[1])) };
}

type Values = ReadonlyMap<string, Float32Array>;

function valuesOf(planes: Planes, encoding: Encoding): Values {
  const n = planes[0].length;
  const out = singles.map(() => new Float32Array(n));
  fillChannels(singles, planes, encoding, out, n);
  return new Map(singles.map((id, i) => [id, out[i].map(within)]));
}

/** Three planes of a colour space in which distances are taken, by the space's name. */
function spaces(planes: Planes, encoding: Encoding): Record<'ab' | 'lab' | 'oklab', Float32Array[]> {
  const n = planes[0].length;
  const l = new Float32Array(n);
  const [a, b] = [new Float32Array(n), new Float32Array(n)];
  fillChannels(['lab.l', 'lab.a', 'lab.b'], planes, encoding, [l, a, b], n);
  const lab = [l.map((v) => 100 * v), a.map((v) => 256 * (v - 0.5)), b.map((v) => 256 * (v - 0.5))];
  const ok = [new Float32Array(n), new Float32Array(n), new Float32Array(n)];
  const light = encoding === 'coded' ? decode : (v: number): number => v;
  for (let i = 0; i < n; i++) {
    oklab(light(planes[0][i]), light(planes[1][i]), light(planes[2][i])).forEach((v, c) => (ok[c][i] = v));
  }
  return { lab, ab: [new Float32Array(n), lab[1], lab[2]], oklab: ok };
}

const SPACE_NAMES = {
  ab: 'near in a and b',
  lab: 'near in LAB',
  oklab: 'near in Oklab'
} as const;

/**
 * Every source that might tell the wanted samples from those to avoid, the best first: single channels, directions of hue,
 * distances to the wanted samples' mean colour, and the two-channel mix that parts them furthest.
 * @param want RGB of the wanted samples, three planes @param avoid of those to avoid
 */
export function separations(want: Planes, avoid: Planes, encoding: Encoding): Candidate[] {
  const [w, v] = [valuesOf(want, encoding), valuesOf(avoid, encoding)];
  const found: Candidate[] = [];
  const add = (source: MaskSource, name: string, a: ArrayLike<number>, b: ArrayLike<number>): void => {
    const area = areaUnderRoc(a, b);
    found.push({ source, name, auc: Math.max(area, 1 - area), curve: transition(a, b) });
  };
  for (const id of singles) add({ kind: 'channel', channel: id }, channelOf(id).name, w.get(id)!, v.get(id)!);
  addDistances(add, spaces(want, encoding), spaces(avoid, encoding));
  addMix(add, w, v);
  return found.sort((a, b) => b.auc - a.auc || width(b) - width(a));
}

/** Of candidates that part the sets alike, the one with the wider transition leaves more room. */
const width = ({ curve }: Candidate): number => {
  const inner = curve.filter(([, y], i) => curve[i + 1]?.[1] !== y || curve[i - 1]?.[1] !== y);
  return inner.length > 1 ? Math.abs(inner[inner.length - 1][0] - inner[0][0]) : 0;
};

type Add = (source: MaskSource, name: string, a: ArrayLike<number>, b: ArrayLike<number>) => void;

function addDistances(add: Add, want: ReturnType<typeof spaces>, avoid: ReturnType<typeof spaces>): void {
  const to = want.lab.map((plane) => Math.round(meanOf(plane) * 100) / 100) as [number, number, number];
  for (const space of ['ab', 'lab', 'oklab'] as const) {
    const place = space === 'oklab' ? oklabFromLab(to) : space === 'ab' ? [0, to[1], to[2]] : to;
    const distances = (planes: Float32Array[]): Float32Array =>
      planes[0].map((_, i) => Math.hypot(...planes.map((p, c) => p[i] - place[c])));
    const [near, far] = [distances(want[space]), distances(avoid[space])];
    // The range reaches well beyond the nearest of those to avoid, so that the transition can lie inside it.
    const least = space === 'oklab' ? 0.02 : 5;
    const reach = Math.max(least, 2 * quantile(Float64Array.from(far).sort(), 0.1));
    const range = Number(reach.toPrecision(3));
    const part = (d: number): number => Math.min(1, d / range);
    add({ kind: 'distance', to, space, range }, SPACE_NAMES[space], near.map(part), far.map(part));
  }
  const [da, db] = [1, 2].map((c) => meanOf(want.lab[c]) - meanOf(avoid.lab[c]));
  const hue = Math.round(((Math.atan2(db, da) * 180) / Math.PI + 360) % 360);
  const along = (planes: Float32Array[]): Float32Array =>
    planes[1].map((a, i) =>
      within(
        0.5 + (a * Math.cos((hue * Math.PI) / 180) + planes[2][i] * Math.sin((hue * Math.PI) / 180)) / 256
      )
    );
  add({ kind: 'toward', hue, across: false }, `toward hue ${hue}°`, along(want.lab), along(avoid.lab));
}

function addMix(add: Add, want: Values, avoid: Values): void {
  let best: { ids: [string, string]; weights: readonly [number, number]; apart: number } | null = null;
  mixed.forEach((first, i) => {
    for (const second of mixed.slice(i + 1)) {
      const found = discriminant(
        [want.get(first)!, want.get(second)!],
        [avoid.get(first)!, avoid.get(second)!]
      );
      if (!best || found.apart > best.apart) best = { ids: [first, second], ...found };
    }
  });
  if (!best) return;
  const { ids, weights } = best as { ids: [string, string]; weights: readonly [number, number] };
  const sum = (values: Values, w: readonly number[], constant: number): Float32Array =>
    values.get(ids[0])!.map((v, i) => w[0] * v + w[1] * values.get(ids[1])![i] + constant);
  // Scaled so that the means of the two sets come to ¼ and ¾.
  const [high, low] = [want, avoid].map((values) => meanOf(sum(values, weights, 0)));
  const scale = high - low > 1e-9 ? 0.5 / (high - low) : 1;
  const fit = weights.map((x) => Math.round(x * scale * 1e3) / 1e3);
  const constant = Math.round((0.25 - low * scale) * 1e3) / 1e3;
  const [a, b] = [want, avoid].map((values) => sum(values, fit, constant).map(within));
  const source: MaskSource = {
    kind: 'mix',
    weights: { [ids[0]]: fit[0], [ids[1]]: fit[1] },
    constant
  };
  add(source, `mix of ${ids.map((id) => channelOf(id).sign).join(' and ')}`, a, b);
}
