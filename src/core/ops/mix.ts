import { z } from 'zod';
import { modelOf, type Planes } from '../colour';
import { byMatrix } from '../colour/by-matrix';
import { decodePlane, encodePlane } from '../colour/code-planes';
import { eitherWay, matrixAt, simd, takePlane } from '../kernels/arena';
import { shown } from './controls';
import { defineOp, readModel } from './op';

export const mixModels = ['rgb', 'cmyk', 'lab'] as const;
export type MixModel = (typeof mixModels)[number];

const lettersOf = (model: MixModel): string[] => modelOf(model).channels.map((c) => c.letter);

/** Below this, a row's sum is taken for none and `normalize` leaves the row alone. */
const NO_SUM = 0.01;

const weight = z
  .number({ error: 'must be a number (1 is 100 %)' })
  .register(shown, { label: 'weight', unit: '%', worth: 0.01 });
const rows = z.record(z.string(), z.record(z.string(), weight));
export type MixRow = Record<string, number>;
export type MixRows = Record<string, MixRow>;

const params = z
  .strictObject({
    model: z.enum(mixModels).default('rgb'),
    rows: rows.default({}),
    normalize: z.boolean().default(false),
    light: z.enum(['coded', 'linear']).default('coded'),
    /** Rows that were set in a model that is not the one in use; they take no part. */
    kept: z.partialRecord(z.enum(mixModels), rows).default({})
  })
  .superRefine(({ model, rows, kept }, context) => {
    const check = (id: MixModel, set: MixRows, path: string[]): void => {
      const letters = lettersOf(id);
      for (const [out, row] of Object.entries(set)) {
        if (!letters.includes(out)) {
          const message = `“${out}” is no channel of ${modelOf(id).title}; use ${letters.join(', ')}`;
          context.addIssue({ code: 'custom', path: [...path, out], message });
          continue;
        }
        for (const input of Object.keys(row)) {
          if (input === 'constant' || letters.includes(input)) continue;
          const message = `“${input}” is no input; use ${letters.join(', ')} or constant`;
          context.addIssue({ code: 'custom', path: [...path, out, input], message });
        }
      }
    };
    check(model, rows, ['rows']);
    for (const [id, set] of Object.entries(kept)) check(id as MixModel, set, ['kept', id]);
  });
export type MixParams = z.infer<typeof params>;

/** The row of an output as it counts: an absent row is the identity, an absent number 0. */
export function rowOf({ model, rows }: Pick<MixParams, 'model' | 'rows'>, out: string): MixRow {
  const row = rows[out] ?? { [out]: 1 };
  const full = Object.fromEntries(lettersOf(model).map((letter) => [letter, row[letter] ?? 0]));
  return { ...full, constant: row['constant'] ?? 0 };
}

/** Sum of a row's weights, without its constant. */
export const rowTotal = ({ constant: _, ...weights }: MixRow): number =>
  Object.values(weights).reduce((sum, w) => sum + w, 0);

/**
 * The row with `input` set to `value` and the difference shared equally over the other inputs, so that the
 * total stays what it was. The constant takes no part.
 */
export function holdTotal(row: MixRow, input: string, value: number): MixRow {
  if (input === 'constant') return { ...row, constant: value };
  const others = Object.keys(row).filter((key) => key !== input && key !== 'constant');
  const share = (value - row[input]) / others.length;
  return { ...row, [input]: value, ...Object.fromEntries(others.map((key) => [key, row[key] - share])) };
}

/** Whether the rows leave the picture as it is. */
export const isIdentity = (params: MixParams): boolean =>
  lettersOf(params.model).every((out) =>
    Object.entries(rowOf(params, out)).every(([input, w]) => w === (input === out ? 1 : 0))
  );

/** Whole sets of rows that only exchange or turn over channels. */
export const arrangements: Record<MixModel, { title: string; sign: string; rows: MixRows }[]> = {
  rgb: [
    { title: 'Swap red and green', sign: 'R ⇄ G', rows: { r: { g: 1 }, g: { r: 1 } } },
    { title: 'Swap green and blue', sign: 'G ⇄ B', rows: { g: { b: 1 }, b: { g: 1 } } },
    { title: 'Swap red and blue', sign: 'R ⇄ B', rows: { r: { b: 1 }, b: { r: 1 } } },
    { title: 'Rotate red to green', sign: 'R → G → B', rows: { r: { b: 1 }, g: { r: 1 }, b: { g: 1 } } },
    { title: 'Rotate red to blue', sign: 'R → B → G', rows: { r: { g: 1 }, g: { b: 1 }, b: { r: 1 } } }
  ],
  cmyk: [
    { title: 'Swap cyan and magenta', sign: 'C ⇄ M', rows: { c: { m: 1 }, m: { c: 1 } } },
    { title: 'Swap magenta and yellow', sign: 'M ⇄ Y', rows: { m: { y: 1 }, y: { m: 1 } } },
    { title: 'Swap cyan and yellow', sign: 'C ⇄ Y', rows: { c: { y: 1 }, y: { c: 1 } } },
    { title: 'Rotate cyan to magenta', sign: 'C → M → Y', rows: { c: { y: 1 }, m: { c: 1 }, y: { m: 1 } } },
    { title: 'Rotate cyan to yellow', sign: 'C → Y → M', rows: { c: { m: 1 }, m: { y: 1 }, y: { c: 1 } } }
  ],
  lab: [
    { title: 'Swap a and b', sign: 'a ⇄ b', rows: { a: { b: 1 }, b: { a: 1 } } },
    { title: 'Turn a over', sign: '−a', rows: { a: { a: -1 } } },
    { title: 'Turn b over', sign: '−b', rows: { b: { b: -1 } } },
    { title: 'Turn both over', sign: '−a −b', rows: { a: { a: -1 }, b: { b: -1 } } }
  ]
};

interface MixCoefficients {
  readonly model: MixModel;
  /** Coded values are decoded first, and coded again. */
  readonly decodes: boolean;
  /** One row an output: the inputs' weights, then the constant. */
  readonly matrix: readonly (readonly number[])[];
}

/**
 * out = Σ weight·in + constant on the values of `model`. LAB is centred on 0: L/100, a/128, b/128. In linear
 * light, RGB and the RGB under CMYK are decoded first and coded again; LAB stands on linear light by itself.
 */
export const mix = defineOp<MixParams, MixCoefficients>({
  id: 'mix',
  title: 'Mix',
  purpose: 'Adds channels into one another by a rule',
  words: [
    'channel mix',
    'swap',
    'swap channels',
    'exchange',
    'infrared',
    'false colour',
    'matrix',
    'look',
    'teal',
    'orange'
  ],
  params,
  kind: 'colour',
  ownModel: ({ model }) => model,
  sentence: (params) => mixSentence(params),
  idle: isIdentity,
  prepare: (params, { encoding }) => ({
    model: params.model,
    decodes: encoding === 'coded' && params.light === 'linear' && params.model !== 'lab',
    matrix: lettersOf(params.model).map((out) => {
      const row = rowOf(params, out);
      const sum = rowTotal(row);
      const scale = params.normalize && Math.abs(sum) >= NO_SUM ? 1 / sum : 1;
      return [...lettersOf(params.model).map((input) => row[input] * scale), row['constant']];
    })
  }),
  kernel(patch, { model, decodes, matrix }, out) {
    const { planes, encoding, width, height } = patch;
    const n = width * height;
    const cmyk = modelOf('cmyk').kernels[encoding];
    if (decodes) for (let c = 0; c < 3; c++) decodePlane(planes[c], out[c], n);
    const source = decodes ? out : planes;
    if (model === 'rgb') byMatrix(source, matrix, out, n);
    else if (model === 'lab') {
      readModel(patch, modelOf('lab'), out);
      byMatrix(out, labMatrix(matrix), out, n);
      modelOf('lab').kernels[encoding].toRgb(out, out, n);
    } else {
      const ink = [...out, takePlane(n)];
      // What was decoded is nothing that others need as well.
      if (decodes) cmyk.fromRgb(out, ink, n);
      else readModel(patch, modelOf('cmyk'), ink);
      mixFour(ink, matrix, n);
      cmyk.toRgb(ink, out, n);
    }
    if (decodes) for (let c = 0; c < 3; c++) encodePlane(out[c], out[c], n);
  }
});

/**
 * The rows for stored LAB, where a/256 stands for a/128, about 0.5: between L and a or b a weight counts half or double.
 */
function labMatrix(matrix: MixCoefficients['matrix']): number[][] {
  const unit = [1, 0.5, 0.5];
  return matrix.map((row, out) => {
    const [l, a, b, constant] = row.map((w, input) => (w * unit[out]) / (input < 3 ? unit[input] : 1));
    return [l, a, b, constant - 0.5 * (a + b) + (out === 0 ? 0 : 0.5)];
  });
}

/** Four planes in place by a 4×5 matrix. */
function mixFour([c, m, y, k]: Planes, matrix: MixCoefficients['matrix'], n: number): void {
  eitherWay(
    [c, m, y, k],
    (...at) => simd.mixFour(at[0], at[1], at[2], at[3], n, matrixAt(matrix.flat())),
    () => mixFourPlainly([c, m, y, k], matrix, n)
  );
}

function mixFourPlainly([c, m, y, k]: Planes, matrix: MixCoefficients['matrix'], n: number): void {
  const [[c0, c1, c2, c3, c4], [m0, m1, m2, m3, m4], [y0, y1, y2, y3, y4], [k0, k1, k2, k3, k4]] = matrix;
  for (let i = 0; i < n; i++) {
    const a = c[i];
    const b = m[i];
    const d = y[i];
    const e = k[i];
    c[i] = c0 * a + c1 * b + c2 * d + c3 * e + c4;
    m[i] = m0 * a + m1 * b + m2 * d + m3 * e + m4;
    y[i] = y0 * a + y1 * b + y2 * d + y3 * e + y4;
    k[i] = k0 * a + k1 * b + k2 * d + k3 * e + k4;
  }
}

interface Words {
  /** What the picture is where the input is high, after “where”; and where it is low, for a two-sided one. */
  high: string;
  low?: string;
  /** What the output adds when it rises; and when it falls, for a two-sided one. */
  more: string;
  less?: string;
}

const words: Record<MixModel, Record<string, Words>> = {
  rgb: {
    r: { high: 'the picture is red', more: 'red' },
    g: { high: 'the picture is green', more: 'green' },
    b: { high: 'the picture is blue', more: 'blue' }
  },
  cmyk: {
    c: { high: 'there is cyan', more: 'cyan ink' },
    m: { high: 'there is magenta', more: 'magenta ink' },
    y: { high: 'there is yellow', more: 'yellow ink' },
    k: { high: 'there is black', more: 'black ink' }
  },
  lab: {
    l: { high: 'the picture is light', more: 'light' },
    a: { high: 'it is magenta', low: 'green', more: 'magenta', less: 'green' },
    b: { high: 'it is yellow', low: 'blue', more: 'yellow', less: 'blue' }
  }
};

const percentOf = (v: number): string => `${Math.round(Math.abs(v) * 1000) / 10} %`;

/** One row in words, e.g. “Where the picture is blue, green is added.” */
export function rowSentence(params: Pick<MixParams, 'model' | 'rows'>, out: string): string {
  const row = rowOf(params, out);
  const { more, less } = words[params.model][out];
  const clauses: string[] = [];
  for (const [input, w] of Object.entries(row)) {
    if (input === 'constant' || input === out || w === 0) continue;
    const { high, low } = words[params.model][input];
    const change = w > 0 ? `${more} is added` : less ? `${less} is added` : `${more} is taken away`;
    const counter = less && low ? `; where it is ${low}, ${w > 0 ? less : more}` : '';
    clauses.push(`where ${high}, ${change}${counter}`);
  }
  if (row[out] < 0) clauses.push(`${more} itself is turned over`);
  else if (row[out] !== 1)
    clauses.push(
      row[out] === 0 ? `${more} itself is left out` : `${more} itself counts ${percentOf(row[out])}`
    );
  const constant = row['constant'];
  if (constant !== 0) {
    clauses.push(
      params.model === 'lab'
        ? `everywhere a constant ${constantInLab(out, constant)}`
        : `${percentOf(constant)} is ${constant > 0 ? 'added' : 'taken away'} everywhere`
    );
  }
  const text = clauses.join('; ');
  return text
    ? `${text[0].toUpperCase()}${text.slice(1)}.`
    : `${more[0].toUpperCase()}${more.slice(1)} stays as it is.`;
}

/** What one of a constant of a row is in LAB's own units. */
export const labUnit = (out: string): number => (out === 'l' ? 100 : 128);

function constantInLab(out: string, constant: number): string {
  const by = Math.round(Math.abs(constant) * labUnit(out) * 10) / 10;
  return `${constant > 0 ? 'raises' : 'lowers'} ${out === 'l' ? 'L*' : `${out}*`} by ${by}`;
}

/** Whether the rows of a mix do what another set of rows does. */
function isSame(params: MixParams, rows: MixRows): boolean {
  const other = { model: params.model, rows };
  return lettersOf(params.model).every((out) =>
    Object.entries(rowOf(params, out)).every(([input, w]) => w === rowOf(other, out)[input])
  );
}

/** What one weight of a row does, in a few words. */
function told(params: MixParams, out: string, input: string): string {
  const row = rowOf(params, out);
  const w = row[input];
  const nameOf = (letter: string): string =>
    modelOf(params.model).channels.find((c) => c.letter === letter)!.name;
  if (input === 'constant' && params.model === 'lab') return `a constant ${constantInLab(out, w)}`;
  if (input !== out) {
    const source = input === 'constant' ? 'a constant' : nameOf(input);
    return `${source} ${w > 0 ? 'lifts' : 'lowers'} ${nameOf(out)} ${percentOf(w)}`;
  }
  const most = lettersOf(params.model).reduce((best, key) => (row[key] > row[best] ? key : best));
  return w === 0 && row[most] > 0
    ? `${nameOf(most)} in place of ${nameOf(out)}`
    : `${nameOf(out)} at ${w < 0 ? '−' : ''}${percentOf(w)}`;
}

/** The whole mix in a few words: the strongest of what is added or taken. */
function mixSentence(params: MixParams): string {
  const title = modelOf(params.model).title;
  if (isIdentity(params)) return 'nothing mixed yet';
  const arranged = arrangements[params.model].find(({ rows }) => isSame(params, rows));
  if (arranged) return arranged.title;
  let strongest = { text: `Mix ${title}`, weight: 0 };
  for (const out of lettersOf(params.model)) {
    const row = rowOf(params, out);
    for (const [input, w] of Object.entries(row)) {
      const change = Math.abs(input === out ? w - 1 : w);
      if (change > strongest.weight) strongest = { text: told(params, out, input), weight: change };
    }
  }
  return strongest.text;
}
