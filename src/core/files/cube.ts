import type { Curves, Table } from '../lut/table';
import { sharedSamples } from '../raster/frame';
import { FileError } from './image';

/** Nodes along an axis of a cube, and of curves. */
export const LARGEST_CUBE = 129;
const LARGEST_CURVES = 65_536;
/** A cube of the largest size with 24 characters a number. */
const LARGEST_FILE = 3 * 25 * LARGEST_CUBE ** 3;
/** The shortest row: three digits, two spaces, an end. */
const SHORTEST_ROW = 6;
const LONGEST_LINE = 4096;

const DIGITS = '[+-]?(?:\\d+(?:\\.\\d*)?|\\.\\d+)(?:e[+-]?\\d+)?';
const NUMBER = new RegExp(`^${DIGITS}$`, 'i');
const ROW = new RegExp(`^\\s*(${DIGITS})\\s+(${DIGITS})\\s+(${DIGITS})\\s*$`, 'i');
const KEYWORDS =
  'TITLE, LUT_1D_SIZE, LUT_3D_SIZE, DOMAIN_MIN, DOMAIN_MAX, LUT_1D_INPUT_RANGE or LUT_3D_INPUT_RANGE';
const told = (n: number): string => n.toLocaleString('en');

/** What the lines before the rows say. */
interface Header {
  title: string;
  curves: number;
  cube: number;
  low: readonly number[];
  high: readonly number[];
  curvesRange: readonly number[] | null;
  cubeRange: readonly number[] | null;
}

/** A line in which something is wrong. */
const at = (line: number, what: string): FileError => new FileError(`Line ${told(line)}: ${what}.`);

function numbers(words: readonly string[], count: number, line: number, what: string): number[] {
  const values = words.map((word) => (NUMBER.test(word) ? Number(word) : Number.NaN));
  const wrong = values.findIndex((v) => !Number.isFinite(v));
  const expected = `${what} takes ${count === 1 ? 'a number' : `${count} numbers`}`;
  if (wrong >= 0) throw at(line, `“${words[wrong].slice(0, 40)}” is no number; ${expected}`);
  if (values.length !== count)
    throw at(line, `${expected}, and there ${values.length === 1 ? 'is 1' : `are ${values.length}`}`);
  return values;
}

function size(words: readonly string[], line: number, keyword: string, most: number): number {
  const [value] = numbers(words, 1, line, keyword);
  if (!Number.isInteger(value) || value < 2 || value > most)
    throw at(line, `${keyword} is ${told(value)}; it must be a whole number from 2 to ${told(most)}`);
  return value;
}

/** Takes one line of the header. @throws FileError */
function takeKeyword(header: Header, word: string, text: string, line: number): void {
  const keyword = word.toUpperCase();
  const words = text.split(/\s+/).slice(1);
  const range = (): number[] => {
    const [low, high] = numbers(words, 2, line, keyword);
    if (!(low < high)) throw at(line, `${keyword} runs from ${low} to ${high}; it must rise`);
    return [low, high];
  };
  if (keyword === 'TITLE')
    header.title = text
      .slice(5)
      .trim()
      .replace(/^"(.*)"$/, '$1')
      .slice(0, 200);
  else if (keyword === 'LUT_1D_SIZE') header.curves = size(words, line, keyword, LARGEST_CURVES);
  else if (keyword === 'LUT_3D_SIZE') header.cube = size(words, line, keyword, LARGEST_CUBE);
  else if (keyword === 'DOMAIN_MIN') header.low = numbers(words, 3, line, keyword);
  else if (keyword === 'DOMAIN_MAX') header.high = numbers(words, 3, line, keyword);
  else if (keyword === 'LUT_1D_INPUT_RANGE') header.curvesRange = range();
  else if (keyword === 'LUT_3D_INPUT_RANGE') header.cubeRange = range();
  else throw at(line, `“${word.slice(0, 40)}” is not known; expected ${KEYWORDS}, or a row of three numbers`);
}

/** The lines of a text with any kind of ending, one after another. */
function* linesOf(text: string): Generator<string> {
  let from = 0;
  for (let i = 0; i <= text.length; i++) {
    const code = i < text.length ? text.charCodeAt(i) : 10;
    if (code !== 10 && code !== 13) continue;
    if (i > from || i < text.length) yield text.slice(from, Math.min(i, from + LONGEST_LINE));
    if (code === 13 && text.charCodeAt(i + 1) === 10) i++;
    from = i + 1;
  }
}

/**
 * Reads a .cube file: curves (LUT_1D_SIZE), a cube (LUT_3D_SIZE) or curves and then a cube, with their domains.
 * @throws FileError with the number of the line and what was expected there
 */
export function readCube(bytes: Uint8Array): Table {
  if (bytes.length > LARGEST_FILE)
    throw new FileError(
      `The table is ${told(Math.round(bytes.length / 2 ** 20))} MB; one of ${LARGEST_CUBE}³ nodes, the largest that is read, takes less.`
    );
  if (bytes.subarray(0, 65_536).includes(0))
    throw new FileError(
      'This is no .cube file: it is no text. A .cube file is a table of numbers in plain text.'
    );
  const text = new TextDecoder().decode(bytes);
  const header: Header = {
    ...{ title: '', curves: 0, cube: 0, low: [0, 0, 0], high: [1, 1, 1] },
    ...{ curvesRange: null, cubeRange: null }
  };
  let rows: Float32Array | null = null;
  let [line, row, count] = [0, 0, 0];
  for (const whole of linesOf(text)) {
    line++;
    // Millions of lines are rows in which nothing is wrong; what is wrong with another is found below.
    const found = rows && row < count ? ROW.exec(whole) : null;
    if (rows && found) {
      const [r, g, b] = [Number(found[1]), Number(found[2]), Number(found[3])];
      if (Number.isFinite(r + g + b)) {
        rows[3 * row] = r;
        rows[3 * row + 1] = g;
        rows[3 * row + 2] = b;
        row++;
        continue;
      }
    }
    const trimmed = whole.trim();
    if (trimmed === '' || trimmed.startsWith('#')) continue;
    const [first] = trimmed.split(/\s/, 1);
    if (/^[A-Z_a-z]/.test(first) && !/^(nan|inf)/i.test(first)) {
      if (rows) throw at(line, `“${first.slice(0, 40)}” stands among the rows; expected three numbers`);
      takeKeyword(header, first, trimmed, line);
      continue;
    }
    if (!rows) {
      count = header.curves + header.cube ** 3;
      if (count === 0)
        throw at(line, 'numbers stand before the table’s size; expected LUT_1D_SIZE or LUT_3D_SIZE first');
      if (count * SHORTEST_ROW > bytes.length + SHORTEST_ROW)
        throw at(line, `${told(count)} rows are announced, and the file is too short for them`);
      rows = sharedSamples('f32', 3 * count) as Float32Array;
    }
    if (row === count) throw at(line, `there are more rows than the ${told(count)} that are announced`);
    rows.set(numbers(trimmed.split(/\s+/), 3, line, 'a row'), 3 * row++);
  }
  if (!rows) throw new FileError(noRows(header, line));
  if (row < count)
    throw new FileError(
      `The file ends after line ${told(line)} with ${told(row)} of the ${told(count)} rows that are announced. It may not have been copied to its end.`
    );
  return tableOf(header, rows);
}

const noRows = ({ curves, cube }: Header, line: number): string =>
  curves + cube === 0
    ? 'This is no .cube file: there is no LUT_1D_SIZE or LUT_3D_SIZE in it.'
    : `The file ends after line ${told(line)} without any of the ${told(curves + cube ** 3)} rows that are announced.`;

function tableOf(
  { title, curves, cube, low, high, curvesRange, cubeRange }: Header,
  rows: Float32Array
): Table {
  const wrong = low.findIndex((v, c) => !(v < high[c]));
  if (wrong >= 0)
    throw new FileError(
      `The domain of ${['red', 'green', 'blue'][wrong]} runs from ${low[wrong]} (DOMAIN_MIN) to ${high[wrong]} (DOMAIN_MAX); it must rise.`
    );
  const part = (count: number, range: readonly number[] | null, values: Float32Array): Curves => ({
    size: count,
    low: range ? [range[0], range[0], range[0]] : low,
    high: range ? [range[1], range[1], range[1]] : high,
    values
  });
  return {
    title,
    curves: curves > 0 ? part(curves, curvesRange, rows.subarray(0, 3 * curves)) : null,
    // Where curves come first, the domain is that of what goes into them.
    cube: cube > 0 ? part(cube, cubeRange ?? (curves > 0 ? [0, 1] : null), rows.subarray(3 * curves)) : null
  };
}

/** A number of a .cube file: seven places, no needless ends. */
function written(v: number): string {
  const steps = 1e7 * v;
  const whole = Math.round(steps);
  // Next to the middle between two of them, and far out, only the exact digits say which is nearer.
  const isPlain = Math.abs(steps - whole) < 0.499 && Math.abs(steps) < 2 ** 50;
  return String(isPlain ? whole / 1e7 : Number(v.toFixed(7)));
}

/** A table as a .cube file. */
export function writeCube({ title, curves, cube }: Table): Uint8Array {
  const lines: string[] = [];
  if (title) lines.push(`TITLE "${title.replaceAll('"', '’').replace(/\s+/g, ' ')}"`);
  if (curves) lines.push(`LUT_1D_SIZE ${curves.size}`);
  if (cube) lines.push(`LUT_3D_SIZE ${cube.size}`);
  const { low, high } = (curves ?? cube)!;
  const isUsual = low.every((v) => v === 0) && high.every((v) => v === 1);
  if (!isUsual)
    lines.push(`DOMAIN_MIN ${low.map(written).join(' ')}`, `DOMAIN_MAX ${high.map(written).join(' ')}`);
  if (curves && cube && (cube.low[0] !== 0 || cube.high[0] !== 1))
    lines.push(`LUT_3D_INPUT_RANGE ${written(cube.low[0])} ${written(cube.high[0])}`);
  for (const { values } of [curves, cube].filter((part) => part !== null))
    for (let i = 0; i < values.length; i += 3)
      lines.push(`${written(values[i])} ${written(values[i + 1])} ${written(values[i + 2])}`);
  return new TextEncoder().encode(`${lines.join('\n')}\n`);
}
