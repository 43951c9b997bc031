import type { Encoding } from '../colour';
import { curveOfSpace, spaceOf, type Curve, type Space } from '../colour/output';
import { bradford, D50, type Matrix3 } from '../colour/xyz';

const HEADER = 128;

/** An ICC profile (version 4.4, matrix and curves) of sRGB, or of its primaries with linear light. */
export const srgbProfile = (encoding: Encoding = 'coded'): Uint8Array =>
  spaceProfile(spaceOf('srgb'), encoding);

/** The same for one channel of greys. */
export const greyProfile = (encoding: Encoding = 'coded'): Uint8Array =>
  spaceProfile(spaceOf('srgb'), encoding, true);

/** Of a space that files are written in; its curve is the formula, as a table of it would be off in the dark. */
export function spaceProfile(space: Space, encoding: Encoding = 'coded', grey = false): Uint8Array {
  const curve = encoding === 'linear' ? curveOf(LINEAR) : parametric(curveOfSpace(space));
  const title = `${encoding === 'linear' ? 'Linear ' : ''}${space.title}${grey ? ' grey' : ''}`;
  const tags: Tags = [
    [['desc'], unicode(title)],
    [['cprt'], unicode('No copyright, use freely')],
    [['wtpt'], xyz(...D50)],
    [['chad'], fixedArray(bradford(space.white, D50))]
  ];
  if (grey) return assemble('GRAY', [...tags, [['kTRC'], curve]], VERSION_4);
  const columns = [0, 1, 2].map((c) => [[`${'rgb'[c]}XYZ`], columnOf(space.toXyz, c)] as const);
  return assemble('RGB ', [...tags, ...columns, [['rTRC', 'gTRC', 'bTRC'], curve]], VERSION_4);
}

/** How values stand for light: as sRGB does, or as light to a power. */
export type Transfer = 'srgb' | { readonly gamma: number };
const LINEAR: Transfer = { gamma: 1 };

type Tags = readonly (readonly [readonly string[], Uint8Array])[];
const [VERSION_2, VERSION_4] = [0x02100000, 0x04400000];

const common = (name: string): Tags => [
  [['desc'], description(name)],
  [['cprt'], text('No copyright, use freely')],
  [['wtpt'], xyz(...D50)]
];

/** A profile of RGB. @param toXyz linear RGB → XYZ relative to D50 */
export function matrixProfile(name: string, toXyz: Matrix3, transfer: Transfer): Uint8Array {
  const column = (c: number): Uint8Array => columnOf(toXyz, c);
  return assemble('RGB ', [
    ...common(name),
    [['rXYZ'], column(0)],
    [['gXYZ'], column(1)],
    [['bXYZ'], column(2)],
    [['rTRC', 'gTRC', 'bTRC'], curveOf(transfer)]
  ]);
}

/** A profile of greys. */
export const curveProfile = (name: string, transfer: Transfer): Uint8Array =>
  assemble('GRAY', [...common(name), [['kTRC'], curveOf(transfer)]]);

function curveOf(transfer: Transfer): Uint8Array {
  if (transfer === 'srgb') return parametric(curveOfSpace(spaceOf('srgb')));
  // parametricCurveType, function 0: light = value^gamma.
  const curve = typed('para', 16);
  new DataView(curve.buffer).setInt32(12, Math.round(transfer.gamma * 65536));
  return curve;
}

/** parametricCurveType, function 3. */
function parametric({ g, a, b, c, d }: Curve): Uint8Array {
  const curve = typed('para', 12 + 20);
  const view = new DataView(curve.buffer);
  view.setUint16(8, 3);
  [g, a, b, c, d].forEach((v, i) => view.setInt32(12 + 4 * i, Math.round(v * 65536)));
  return curve;
}

const columnOf = (matrix: Matrix3, c: number): Uint8Array => xyz(matrix[c], matrix[3 + c], matrix[6 + c]);

function xyz(x: number, y: number, z: number): Uint8Array {
  const tag = typed('XYZ ', 20);
  [x, y, z].forEach((v, i) => new DataView(tag.buffer).setInt32(8 + 4 * i, Math.round(v * 65536)));
  return tag;
}

const ascii = (s: string): number[] => [...s].map((c) => c.charCodeAt(0));

function typed(type: string, length: number): Uint8Array {
  const tag = new Uint8Array(length);
  tag.set(ascii(type));
  return tag;
}

function text(content: string): Uint8Array {
  const tag = typed('text', 8 + content.length + 1);
  tag.set(ascii(content), 8);
  return tag;
}

/** s15Fixed16ArrayType. */
function fixedArray(values: readonly number[]): Uint8Array {
  const tag = typed('sf32', 8 + 4 * values.length);
  values.forEach((v, i) => new DataView(tag.buffer).setInt32(8 + 4 * i, Math.round(v * 65536)));
  return tag;
}

/** multiLocalizedUnicodeType of one English record. */
function unicode(content: string): Uint8Array {
  const tag = typed('mluc', 28 + 2 * content.length);
  const view = new DataView(tag.buffer);
  [1, 12].forEach((v, i) => view.setUint32(8 + 4 * i, v));
  tag.set(ascii('enUS'), 16);
  [2 * content.length, 28].forEach((v, i) => view.setUint32(20 + 4 * i, v));
  [...content].forEach((letter, i) => view.setUint16(28 + 2 * i, letter.charCodeAt(0)));
  return tag;
}

/** textDescriptionType: an ASCII count and string, then empty Unicode and script parts. */
function description(content: string): Uint8Array {
  const tag = typed('desc', 12 + content.length + 1 + 78);
  new DataView(tag.buffer).setUint32(8, content.length + 1);
  tag.set(ascii(content), 12);
  return tag;
}

function assemble(space: 'RGB ' | 'GRAY', tags: Tags, version = VERSION_2): Uint8Array {
  const entries = tags.reduce((sum, [names]) => sum + names.length, 0);
  let at = HEADER + 4 + 12 * entries;
  const size = tags.reduce((sum, [, tag]) => sum + Math.ceil(tag.length / 4) * 4, at);
  const profile = new Uint8Array(size);
  const view = new DataView(profile.buffer);
  view.setUint32(0, size);
  view.setUint32(8, version);
  profile.set(ascii(`mntr${space}XYZ `), 12);
  [2026, 1, 1].forEach((v, i) => view.setUint16(24 + 2 * i, v));
  profile.set(ascii('acsp'), 36);
  D50.forEach((v, i) => view.setInt32(68 + 4 * i, Math.round(v * 65536)));
  view.setUint32(HEADER, entries);
  let entry = HEADER + 4;
  for (const [names, tag] of tags) {
    for (const name of names) {
      profile.set(ascii(name), entry);
      view.setUint32(entry + 4, at);
      view.setUint32(entry + 8, tag.length);
      entry += 12;
    }
    profile.set(tag, at);
    at += Math.ceil(tag.length / 4) * 4;
  }
  return profile;
}
