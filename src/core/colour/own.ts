/** Spaces of ICC profiles of a person's own, that files are written in. */
import { LRUCache } from 'lru-cache';
import { takePlane } from '../kernels/arena';
import type { Planes } from '.';
import { byMatrix } from './by-matrix';
import { spaceOf, type SpaceId } from './output';
import { decode } from './transfer';
import { RGB_TO_XYZ, XYZ_TO_RGB, type Matrix3 } from './xyz';

/** How colours that a profile can't hold are brought into it (ICC.1:2022, 4.1). */
export const INTENTS = ['relative', 'perceptual'] as const;
export type Intent = (typeof INTENTS)[number];

/** A profile of RGB, and how colours are brought into it: plain data. */
export interface OwnSpace {
  /** What its file is called. */
  readonly title: string;
  /** SHA-256 of the profile. */
  readonly key: string;
  readonly profile: Uint8Array;
  readonly intent: Intent;
  /** The darkest of the picture becomes the darkest of the space, and what is above goes along. */
  readonly blackPoint: boolean;
}

/** Whose RGB a file is written in. */
export type OutputSpace = SpaceId | OwnSpace;

export const isOwn = (space: OutputSpace | undefined): space is OwnSpace => typeof space === 'object';
export const spaceTitle = (space: OutputSpace): string => (isOwn(space) ? space.title : spaceOf(space).title);

/** The way into a space and back, of interleaved triples; XYZ is relative to D50. */
export interface OwnWay {
  /** Coded sRGB within 0…1 → values of the space. */
  fromSrgb(rgb: Float32Array, count: number): Float32Array;
  /** XYZ, also of what lies outside sRGB → values of the space. */
  fromXyz(xyz: Float32Array, count: number): Float32Array;
  /** XYZ → XYZ of what the space can hold of it, relative colorimetric. */
  held(xyz: Float32Array, count: number): Float32Array;
  close(): void;
}

const MOST_WAYS = 6;
const ways = new LRUCache<string, OwnWay>({ max: MOST_WAYS, dispose: (way) => way.close() });
const keyOf = ({ key, intent, blackPoint }: OwnSpace): string => [key, intent, blackPoint].join();

/** Makes the way into a space ready where it is not: what computes can't wait for it. */
export async function readyFor(space: OwnSpace, make: (space: OwnSpace) => Promise<OwnWay>): Promise<void> {
  const key = keyOf(space);
  if (!ways.get(key)) ways.set(key, await make(space));
}

function wayOf(space: OwnSpace): OwnWay {
  const way = ways.get(keyOf(space));
  if (!way) throw new Error('The way into this profile was not made ready.');
  return way;
}

/** What is converted at once: triples. */
const BLOCK = 65536;

/** Planes by way of interleaved triples, in place; what is missing in one of them is missing in all. */
function byTriples(
  made: Planes,
  n: number,
  convert: (triples: Float32Array, count: number) => Float32Array
): Planes {
  // Not in the kernels' memory, where what reads single samples is slow.
  const planes = made.map((plane) => plane.slice(0, n));
  const block = new Float32Array(3 * Math.min(n, BLOCK));
  for (let from = 0; from < n; from += BLOCK) {
    const count = Math.min(BLOCK, n - from);
    planes.forEach((plane, c) => {
      for (let i = 0; i < count; i++) block[3 * i + c] = plane[from + i];
    });
    const there = new Uint8Array(count);
    for (let i = 0; i < count; i++) {
      const [r, g, b] = [block[3 * i], block[3 * i + 1], block[3 * i + 2]];
      // Not by their sum: of infinities that is no number either.
      if (r === r && g === g && b === b) there[i] = 1;
      else block.fill(0, 3 * i, 3 * i + 3);
    }
    const converted = convert(block.subarray(0, 3 * count), count);
    planes.forEach((plane, c) => {
      for (let i = 0; i < count; i++) plane[from + i] = there[i] ? converted[3 * i + c] : NaN;
    });
  }
  planes.forEach((plane, c) => made[c].set(plane));
  return made;
}

const rowsOf = (m: Matrix3): number[][] => [0, 3, 6].map((i) => [...m.slice(i, i + 3), 0]);

const INTO_XYZ = rowsOf(RGB_TO_XYZ);

const within = (v: number): boolean => v >= 0 && v <= 1;

/** Coded sRGB: as the profile of sRGB has it, or by light where that does not reach. */
function fromCoded({ fromSrgb, fromXyz }: OwnWay, rgb: Float32Array, count: number): Float32Array {
  const made = fromSrgb(rgb, count);
  const beyond = new Uint32Array(count);
  let some = 0;
  for (let at = 0; at < 3 * count; at += 3)
    if (!(within(rgb[at]) && within(rgb[at + 1]) && within(rgb[at + 2]))) beyond[some++] = at;
  if (some === 0) return made;
  const m = RGB_TO_XYZ;
  const xyz = new Float32Array(3 * some);
  for (let i = 0; i < some; i++) {
    const at = beyond[i];
    const r = decode(rgb[at]);
    const g = decode(rgb[at + 1]);
    const b = decode(rgb[at + 2]);
    for (let c = 0; c < 3; c++) xyz[3 * i + c] = m[3 * c] * r + m[3 * c + 1] * g + m[3 * c + 2] * b;
  }
  const converted = fromXyz(xyz, some);
  for (let i = 0; i < some; i++) for (let c = 0; c < 3; c++) made[beyond[i] + c] = converted[3 * i + c];
  return made;
}

/** Planes of coded sRGB → values of a space that is ready, in their place. */
export const intoOwn = (space: OwnSpace, coded: Planes, n: number): Planes => {
  const way = wayOf(space);
  return byTriples(coded, n, (rgb, count) => fromCoded(way, rgb, count));
};

/** Linear sRGB → linear sRGB of what a space that is ready can hold of it; in the arena. */
export function heldByOwn(space: OwnSpace, lights: Planes, n: number): Planes {
  const made = [0, 1, 2].map(() => takePlane(n)) as unknown as Planes;
  byMatrix(lights, INTO_XYZ, made, n);
  const held = byTriples(made, n, wayOf(space).held);
  byMatrix(held, rowsOf(XYZ_TO_RGB), held, n);
  return held;
}
