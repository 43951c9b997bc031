/**
 * An ICC profile of a made-up printer and paper, with tables of its own for two intents (lut16Type, ICC.1:2022, 10.10). Its values are
 * inks upside down: L* from 12 to 92, colours of little chroma. They follow from LAB by a matrix, so that they can be told by hand.
 */
const [DARKEST, LIGHTEST] = [12, 92];
const [WEIGHT_RED, WEIGHT_GREEN, WEIGHT_BLUE] = [0.3, 0.6, 0.1];
const CHROMA = 60;

type Triple = readonly [number, number, number];

/** Values of 0…1 → LAB. */
export const paperLab = ([r, g, b]: Triple): Triple => [
  DARKEST + (LIGHTEST - DARKEST) * (WEIGHT_RED * r + WEIGHT_GREEN * g + WEIGHT_BLUE * b),
  CHROMA * (r - g),
  CHROMA * ((r + g) / 2 - b)
];

/** LAB → values, before they are cut to 0…1. */
export function paperValues([l, a, b]: Triple): Triple {
  // r = g + a/60 and b = g + a/120 − b/60, put into lightness.
  const [fromRed, fromBlue] = [a / CHROMA, a / (2 * CHROMA) - b / CHROMA];
  const green = (l - DARKEST) / (LIGHTEST - DARKEST) - WEIGHT_RED * fromRed - WEIGHT_BLUE * fromBlue;
  return [green + fromRed, green, green + fromBlue];
}

/** The perceptual way in: all lightness finds a place, and two thirds of the chroma. */
export const perceptualLab = ([l, a, b]: Triple): Triple => [
  DARKEST + ((LIGHTEST - DARKEST) * l) / 100,
  (2 * a) / 3,
  (2 * b) / 3
];
const backFromPerceptual = ([l, a, b]: Triple): Triple => [
  (100 * (l - DARKEST)) / (LIGHTEST - DARKEST),
  1.5 * a,
  1.5 * b
];

/** LAB of version 2 in parts of 65535. */
const storedLab = ([l, a, b]: Triple): Triple => [
  (l * 652.8) / 65535,
  ((a + 128) * 256) / 65535,
  ((b + 128) * 256) / 65535
];
const labOf = ([l, a, b]: Triple): Triple => [
  (l * 65535) / 652.8,
  (a * 65535) / 256 - 128,
  (b * 65535) / 256 - 128
];

function lut(grid: number, through: (at: Triple) => Triple): Uint8Array {
  const bytes = new Uint8Array(52 + 2 * (3 * 2 + 3 * grid ** 3 + 3 * 2));
  const view = new DataView(bytes.buffer);
  bytes.set(new TextEncoder().encode('mft2'));
  bytes.set([3, 3, grid], 8);
  [0, 4, 8].forEach((i) => view.setInt32(12 + 4 * i, 65536));
  view.setUint16(48, 2);
  view.setUint16(50, 2);
  let at = 52;
  const put = (v: number): void => {
    view.setUint16(at, Math.round(65535 * Math.min(1, Math.max(0, v))));
    at += 2;
  };
  const ends = (): void => [0, 1, 0, 1, 0, 1].forEach(put);
  ends();
  for (let i = 0; i < grid ** 3; i++) {
    const node = [Math.floor(i / grid ** 2), Math.floor(i / grid) % grid, i % grid];
    through(node.map((v) => v / (grid - 1)) as unknown as Triple).forEach(put);
  }
  ends();
  return bytes;
}

const text = (words: string): Uint8Array => new TextEncoder().encode(`text\0\0\0\0${words}\0`);
function described(words: string): Uint8Array {
  const tag = new Uint8Array(12 + words.length + 1 + 78);
  tag.set(new TextEncoder().encode('desc'));
  new DataView(tag.buffer).setUint32(8, words.length + 1);
  tag.set(new TextEncoder().encode(words), 12);
  return tag;
}
function white(): Uint8Array {
  const tag = new Uint8Array(20);
  tag.set(new TextEncoder().encode('XYZ '));
  [0.9642, 1, 0.8249].forEach((v, i) => new DataView(tag.buffer).setInt32(8 + 4 * i, Math.round(v * 65536)));
  return tag;
}

/** @param changes of the header: what stands at a byte */
export function paperProfile(
  changes: Readonly<Record<number, string>> = {},
  grid = 17
): Uint8Array<ArrayBuffer> {
  const tags: readonly (readonly [string, Uint8Array])[] = [
    ['desc', described('Skerry Kiln matte')],
    ['cprt', text('No copyright, use freely')],
    ['wtpt', white()],
    ['A2B0', lut(grid, (v) => storedLab(backFromPerceptual(paperLab(v))))],
    ['A2B1', lut(grid, (v) => storedLab(paperLab(v)))],
    ['B2A0', lut(grid, (v) => paperValues(perceptualLab(labOf(v))))],
    ['B2A1', lut(grid, (v) => paperValues(labOf(v)))]
  ];
  const padded = (n: number): number => 4 * Math.ceil(n / 4);
  const first = 128 + 4 + 12 * tags.length;
  const bytes = new Uint8Array(tags.reduce((sum, [, tag]) => sum + padded(tag.length), first));
  const view = new DataView(bytes.buffer);
  view.setUint32(0, bytes.length);
  view.setUint32(8, 0x02100000);
  bytes.set(new TextEncoder().encode('prtrRGB Lab '), 12);
  [2026, 1, 1].forEach((v, i) => view.setUint16(24 + 2 * i, v));
  bytes.set(new TextEncoder().encode('acsp'), 36);
  [0.9642, 1, 0.8249].forEach((v, i) => view.setInt32(68 + 4 * i, Math.round(v * 65536)));
  view.setUint32(128, tags.length);
  let at = first;
  tags.forEach(([name, tag], i) => {
    const entry = 132 + 12 * i;
    bytes.set(new TextEncoder().encode(name), entry);
    view.setUint32(entry + 4, at);
    view.setUint32(entry + 8, tag.length);
    bytes.set(tag, at);
    at += padded(tag.length);
  });
  for (const [place, word] of Object.entries(changes))
    bytes.set(new TextEncoder().encode(word), Number(place));
  return bytes;
}
