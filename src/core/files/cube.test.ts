import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { LARGEST_CUBE, readCube, writeCube } from './cube';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const read = (text: string): ReturnType<typeof readCube> => readCube(bytes(text));
const EIGHT = ['0 0 0', '1 0 0', '0 1 0', '1 1 0', '0 0 1', '1 0 1', '0 1 1', '1 1 1'];
const rows = EIGHT.join('\n');

describe('a .cube file', () => {
  it('holds a cube, red running fastest, with any line endings, comments and spaces', () => {
    const text = `# made by hand\nTITLE "Kiln  blue"\n\nLUT_3D_SIZE 2\n${rows}\n`;
    for (const one of [text, text.replaceAll('\n', '\r\n'), text.replaceAll('\n', '\r'), `\uFEFF${text}`]) {
      const { title, curves, cube } = read(one);
      expect([title, curves, cube?.size]).toEqual(['Kiln  blue', null, 2]);
      expect([...cube!.values.subarray(0, 6)]).toEqual([0, 0, 0, 1, 0, 0]);
      expect([cube!.low, cube!.high]).toEqual([
        [0, 0, 0],
        [1, 1, 1]
      ]);
    }
    const odd = read(
      `\t lut_3d_size\t2 \n${EIGHT.map((r) => ` \t${r.replaceAll(' ', '\t  ')}  `).join('\n# no row\n\n')}`
    );
    expect(odd.cube?.values).toEqual(read(text).cube?.values);
  });

  it('holds curves, or curves and then a cube, with their domains', () => {
    const curves = read('LUT_1D_SIZE 3\nDOMAIN_MIN 0 -1 0\nDOMAIN_MAX 2 1 4.5\n0 0 0\n.5 5e-1 +0.5\n1 1 1\n');
    expect(curves.cube).toBeNull();
    expect(curves.curves).toMatchObject({ size: 3, low: [0, -1, 0], high: [2, 1, 4.5] });
    expect([...curves.curves!.values.subarray(3, 6)]).toEqual([0.5, 0.5, 0.5]);
    const both = read(
      `LUT_1D_SIZE 2\nLUT_1D_INPUT_RANGE -0.5 1.5\nLUT_3D_SIZE 2\nLUT_3D_INPUT_RANGE 0 2\n0 0 0\n2 2 2\n${rows}`
    );
    expect(both.curves).toMatchObject({ size: 2, low: [-0.5, -0.5, -0.5], high: [1.5, 1.5, 1.5] });
    expect(both.cube).toMatchObject({ size: 2, low: [0, 0, 0], high: [2, 2, 2] });
    expect([...both.cube!.values.subarray(0, 6)]).toEqual([0, 0, 0, 1, 0, 0]);
  });

  it('is written as it is read, to seven places', () => {
    for (const text of [
      `TITLE "A “look”"\nLUT_3D_SIZE 2\nDOMAIN_MIN 0 -1 0\nDOMAIN_MAX 2 1 4.5\n${rows}`,
      `LUT_1D_SIZE 2\nLUT_1D_INPUT_RANGE -0.5 1.5\nLUT_3D_SIZE 2\nLUT_3D_INPUT_RANGE 0 2\n0 0.1234567 0\n2 2 2\n${rows}`,
      'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n'
    ]) {
      const table = read(text);
      expect(readCube(writeCube(table))).toEqual(table);
    }
  });

  const refused: readonly [string, string, RegExp][] = [
    ['nothing at all', '', /no LUT_1D_SIZE or LUT_3D_SIZE/],
    [
      'a text of another kind',
      'Dear reader,\nthis is a letter.',
      /Line 1: “Dear” is not known; expected TITLE/
    ],
    ['numbers before the size', '0 0 0\nLUT_3D_SIZE 2', /Line 1: .*before the table’s size/],
    [
      'a word for a number',
      `LUT_3D_SIZE 2\n0 0 0\n1 zero 0\n${rows}`,
      /Line 3: “zero” is no number; a row takes 3/
    ],
    ['NaN', `LUT_3D_SIZE 2\nnan 0 0\n${rows}`, /Line 2: “nan” is no number/],
    ['too great a number', `LUT_3D_SIZE 2\n1e999 0 0\n${rows}`, /Line 2: “1e999” is no number/],
    ['a row of two', `LUT_3D_SIZE 2\n0 0\n${rows}`, /Line 2: a row takes 3 numbers, and there are 2/],
    ['a row of four', `LUT_3D_SIZE 2\n0 0 0 0\n${rows}`, /Line 2: a row takes 3 numbers, and there are 4/],
    ['too few rows', `LUT_3D_SIZE 2\n${EIGHT.slice(0, 7).join('\n')}`, /after line 8 with 7 of the 8 rows/],
    ['too many rows', `LUT_3D_SIZE 2\n${rows}\n1 1 1`, /Line 10: there are more rows than the 8/],
    ['no rows', 'LUT_3D_SIZE 2\n', /after line 1 without any of the 8 rows/],
    ['a size of 1', `LUT_3D_SIZE 1\n0 0 0`, /Line 1: LUT_3D_SIZE is 1; .* from 2 to 129/],
    ['a broken size', `LUT_3D_SIZE 2.5\n0 0 0`, /Line 1: LUT_3D_SIZE is 2.5/],
    ['a size too great', `LUT_3D_SIZE 130\n0 0 0`, /Line 1: LUT_3D_SIZE is 130/],
    ['10⁶ rows that are not there', `LUT_3D_SIZE 100\n0 0 0`, /Line 2: 1,000,000 rows are announced/],
    [
      'a domain that falls',
      `LUT_3D_SIZE 2\nDOMAIN_MIN 0 1 0\n${rows}`,
      /domain of green runs from 1 .* to 1/
    ],
    ['a domain of two', `LUT_3D_SIZE 2\nDOMAIN_MIN 0 1\n${rows}`, /Line 2: DOMAIN_MIN takes 3 numbers/],
    ['a range that falls', `LUT_3D_SIZE 2\nLUT_3D_INPUT_RANGE 1 0\n${rows}`, /Line 2: .* it must rise/],
    [
      'an unknown line',
      `LUT_IN_VIDEO_RANGE\nLUT_3D_SIZE 2\n${rows}`,
      /Line 1: “LUT_IN_VIDEO_RANGE” is not known/
    ],
    [
      'a keyword among rows',
      `LUT_3D_SIZE 2\n0 0 0\nTITLE x\n${rows}`,
      /Line 3: “TITLE” stands among the rows/
    ]
  ];
  it.each(refused)('with %s is refused by its line', (_, text, message) => {
    expect(() => read(text)).toThrow(message);
    try {
      read(text);
    } catch (error) {
      expect((error as Error).name).toBe('FileError');
      expect((error as Error).message.length).toBeLessThan(300);
    }
  });

  it('that is binary, far too large, or one line without end is refused', () => {
    const binary = Uint8Array.from({ length: 5000 }, (_, i) => (i * 37) % 256);
    expect(() => readCube(binary)).toThrow(/it is no text/);
    expect(() => readCube(new Uint8Array(200 * 2 ** 20).fill(48))).toThrow(/200 MB; one of 129³/);
    expect(() => readCube(new Uint8Array(2 ** 20).fill(65))).toThrow(/Line 1: “A{40}” is not known/);
    expect(() => readCube(bytes(`LUT_3D_SIZE 2\n${'0'.repeat(2 ** 20)}`))).toThrow(/Line 2/);
  });

  it('is written to the nearest of seven places, as ECMA-262 has it for Number.prototype.toFixed', () => {
    const random = randomStream(5);
    const values = Float32Array.from({ length: 30_000 }, (_, i) => {
      const v = random();
      // Usual ones, ones about the middle between two places, tiny ones, and ones that are far out.
      return [v, (Math.floor(1e7 * v) + 0.5) / 1e7, 1e-6 * (v - 0.5), 4 * v - 2, 1e6 * v, 1e25 * (v - 0.5)][
        i % 6
      ];
    });
    const cube = { size: 2, low: [0, 0, 0], high: [1, 1, 1], values };
    const rows = new TextDecoder()
      .decode(writeCube({ title: '', curves: null, cube }))
      .split('\n')
      .slice(1);
    const wanted = Array.from(values, (v) => String(Number(v.toFixed(7))));
    expect(rows.join(' ').trim()).toBe(wanted.join(' '));
  });

  it('of the largest size is read and written', () => {
    const size = LARGEST_CUBE;
    const values = Float32Array.from({ length: 3 * size ** 3 }, (_, i) => (i % 1000) / 1000);
    const cube = { size, low: [0, 0, 0], high: [1, 1, 1], values };
    const again = readCube(writeCube({ title: '', curves: null, cube }));
    expect(again.cube?.size).toBe(size);
    expect(again.cube?.values.at(-1)).toBeCloseTo(values.at(-1)!, 6);
  });
});
