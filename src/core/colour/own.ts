/** Spaces of ICC profiles of a person's own, that files are written in. */
import { LRUCache } from 'lru-cache';
import { takePlane } from '../kernels/arena';
import type { Planes } from '.';
import { byMatrix } from './by-matrix';
import { spaceOf, type SpaceId } from './output';
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

/** The way into a space and back, of interleaved triples. */
export interface OwnWay {
  /** XYZ relative to D50 → values of the space. */
  into(xyz: Float32Array, count: number): Float32Array;
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

/** Planes of linear sRGB by way of XYZ; what is missing in one of them is missing in all. */
function byXyz(
  lights: Planes,
  n: number,
  convert: (xyz: Float32Array, count: number) => Float32Array
): Planes {
  const made = [0, 1, 2].map(() => takePlane(n)) as unknown as Planes;
  byMatrix(lights, rowsOf(RGB_TO_XYZ), made, n);
  // Not in the kernels' memory, where what reads single samples is slow.
  const planes = made.map((plane) => plane.slice(0, n));
  const block = new Float32Array(3 * Math.min(n, BLOCK));
  for (let from = 0; from < n; from += BLOCK) {
    const count = Math.min(BLOCK, n - from);
    planes.forEach((plane, c) => {
      for (let i = 0; i < count; i++) {
        const v = plane[from + i];
        block[3 * i + c] = v === v ? v : 0;
      }
    });
    const converted = convert(block.subarray(0, 3 * count), count);
    for (let i = 0; i < count; i++) {
      const there = planes[1][from + i] === planes[1][from + i];
      for (let c = 0; c < 3; c++) planes[c][from + i] = there ? converted[3 * i + c] : NaN;
    }
  }
  planes.forEach((plane, c) => made[c].set(plane));
  return made;
}

const rowsOf = (m: Matrix3): number[][] => [0, 3, 6].map((i) => [...m.slice(i, i + 3), 0]);

/** Linear sRGB → values of a space that is ready; in the arena. */
export const intoOwn = (space: OwnSpace, lights: Planes, n: number): Planes =>
  byXyz(lights, n, wayOf(space).into);

/** Linear sRGB → linear sRGB of what a space that is ready can hold of it; in the arena. */
export function heldByOwn(space: OwnSpace, lights: Planes, n: number): Planes {
  const held = byXyz(lights, n, wayOf(space).held);
  byMatrix(held, rowsOf(XYZ_TO_RGB), held, n);
  return held;
}
