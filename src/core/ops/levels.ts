import { z } from 'zod';
import { percentile } from '../measure/histogram';
import { fillChannel } from '../colour';
import { closeArena, inArena, openArena, simd, takeTable } from '../kernels/arena';
import { percent, refusedKey, said, unit } from './fields';
import { defineOp, type Given } from './op';

const one = z
  .strictObject({
    black: unit(-1, 2).default(0),
    mid: z
      .number({ error: 'must be a number' })
      .min(0.05, 'must be at least 0.05')
      .max(20, 'must be at most 20')
      .default(1),
    white: unit(-1, 2).default(1),
    outBlack: unit(-1, 2).default(0),
    outWhite: unit(-1, 2).default(1)
  })
  .refine(({ black, white }) => Math.abs(white - black) >= 1e-4, {
    path: ['white'],
    error: 'must differ from black'
  });
export type LevelsOf = z.infer<typeof one>;
export const plainLevels: LevelsOf = { black: 0, mid: 1, white: 1, outBlack: 0, outWhite: 1 };

const isPlain = (of: LevelsOf): boolean =>
  Object.entries(plainLevels).every(([key, v]) => of[key as keyof LevelsOf] === v);

const params = z.strictObject({
  channels: z.record(z.string(), one).default({}),
  /** Black and white of each channel at so many percent of its own samples, instead of the numbers. */
  auto: z
    .strictObject({ clip: percent(0, 20) })
    .nullable()
    .default(null)
});
export type LevelsParams = z.infer<typeof params>;

/** (x − black)/(white − black), then ^(1/mid), then into outBlack…outWhite. Odd below black, as the power is. */
export function levelsAt({ black, mid, white, outBlack, outWhite }: LevelsOf, x: number): number {
  const t = (x - black) / (white - black);
  const u = mid === 1 ? t : powered(t, 1 / mid);
  return outBlack + u * (outWhite - outBlack);
}

/** t^p up to 1, straight on beyond it with the slope it has there; below 0 with the slope of its first hundredth. */
function powered(t: number, p: number): number {
  if (t > 1) return 1 + p * (t - 1);
  if (t >= 0) return t ** p;
  return t * FIRST ** (p - 1);
}

const SEGMENTS = 8192;
/** From this t on the table is fine enough for any power: its error stays below 1e-6. */
const FINE = 1 / 64;
/** The slope below 0 is that of the first hundredth. */
const FIRST = 0.01;

/** x ↦ levels, as a table over even steps of t from 0 to 1. */
interface LevelsTable {
  readonly of: LevelsOf;
  readonly table: Float64Array | null;
}

function tableFor(of: LevelsOf): LevelsTable {
  if (of.mid === 1) return { of, table: null };
  const p = 1 / of.mid;
  const span = of.outWhite - of.outBlack;
  const table = Float64Array.from(
    { length: SEGMENTS + 2 },
    (_, i) => of.outBlack + span * (i / SEGMENTS) ** p
  );
  return { of, table };
}

function run({ of, table }: LevelsTable, source: Float32Array, out: Float32Array, n: number): void {
  const { black, white, outBlack, outWhite } = of;
  const scale = 1 / (white - black);
  const span = outWhite - outBlack;
  if (!table) {
    const gain = scale * span;
    const offset = outBlack - black * gain;
    for (let i = 0; i < n; i++) out[i] = source[i] * gain + offset;
    return;
  }
  if (runFast({ of, table }, source, out, n)) return;
  const low = SEGMENTS * FINE;
  for (let i = 0; i < n; i++) {
    const t = (source[i] - black) * scale;
    const at = t * SEGMENTS;
    // Near black a small power is steeper than the table's steps.
    if (at >= low && at < SEGMENTS) {
      const k = at | 0;
      const a = table[k];
      out[i] = a + (table[k + 1] - a) * (at - k);
    } else out[i] = levelsAt(of, source[i]);
  }
}

/** The same by the kernel of the arena; false where the planes lie elsewhere or there is no room. */
function runFast({ of, table }: LevelsTable, source: Float32Array, out: Float32Array, n: number): boolean {
  if (!table || !inArena([source, out])) return false;
  const mark = openArena(0);
  const at = takeTable(table);
  if (at !== null) {
    const { black, white, mid, outBlack, outWhite } = of;
    const power = 1 / mid;
    const ends = [outBlack, outWhite - outBlack] as const;
    const [from, to] = [source.byteOffset, out.byteOffset];
    const below = FIRST ** (power - 1);
    simd.levelsPlane(
      from,
      to,
      n,
      black,
      1 / (white - black),
      power,
      ...ends,
      at,
      SEGMENTS,
      SEGMENTS * FINE,
      below
    );
  }
  closeArena(mark);
  return at !== null;
}

/** Each channel's own levels and the ones for all, in the order in which they act. */
type LevelsCoefficients = readonly (readonly LevelsTable[])[];

function solvedLevels({ channels, auto }: LevelsParams, given: Given): LevelsOf[][] {
  return given.channels.map(({ id, letter }) => {
    const own = channels[letter] ?? plainLevels;
    const list: LevelsOf[] = [];
    if (auto) {
      const { planes, n } = given.analysis();
      const plane = new Float32Array(n);
      fillChannel(id, planes, plane, n);
      const black = percentile(plane, n, auto.clip);
      const white = percentile(plane, n, 100 - auto.clip);
      list.push(white - black >= 1e-4 ? { ...own, black, white } : { ...own, black: 0, white: 1 });
    } else list.push(own);
    if (channels['all']) list.push(channels['all']);
    return list;
  });
}

export const levels = defineOp<LevelsParams, LevelsCoefficients>({
  id: 'levels',
  title: 'Levels',
  purpose: 'Sets black, white and the middle of each channel',
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  sentence({ channels, auto }) {
    if (auto) return `Each channel from its darkest ${said(auto.clip, 2)} % to its brightest`;
    const count = Object.keys(channels).length;
    if (count === 0) return 'Black and white as they are';
    const middles = Object.values(channels).every((of) => of.mid !== 1 && isPlain({ ...of, mid: 1 }));
    const what = middles ? 'Middle moved' : 'Black and white set';
    if ('all' in channels && count === 1) return `${what} for all`;
    return `${what} on ${count} ${count > 1 ? 'channels' : 'channel'}`;
  },
  whole: ({ auto }) => auto !== null,
  prepare: (params, given) =>
    solvedLevels(params, given).map((list) => list.filter((of, i) => i === 0 || !isPlain(of)).map(tableFor)),
  solved: (coefficients) => ({ levels: coefficients.map((list) => list[0].of) }),
  refuses: ({ channels }, model) => refusedKey('channels', channels, model, ['all']),
  kernel({ planes, width, height }, coefficients, out) {
    const n = width * height;
    planes.forEach((plane, c) => {
      let source = plane;
      for (const table of coefficients[c]) {
        if (isPlain(table.of) && source === out[c]) continue;
        run(table, source, out[c], n);
        source = out[c];
      }
    });
  }
});
