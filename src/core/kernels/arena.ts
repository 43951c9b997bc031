import { KERNELS } from './binary';

/** The SIMD kernels, compiled from assembly/; addresses are bytes in their memory, `n` counts samples. */
interface Exports {
  memory: WebAssembly.Memory;
  firstFree(): number;
  mixThree(x: number, y: number, z: number, u: number, v: number, w: number, n: number, matrix: number): void;
  mixFour(x: number, y: number, z: number, w: number, n: number, matrix: number): void;
  luminance(r: number, g: number, b: number, to: number, n: number, matrix: number): void;
  decodePlane(from: number, to: number, n: number): void;
  encodePlane(from: number, to: number, n: number): void;
  labFromRgb(
    r: number,
    g: number,
    b: number,
    l: number,
    p: number,
    q: number,
    n: number,
    matrix: number
  ): void;
  labAndLuminance(
    r: number,
    g: number,
    b: number,
    l: number,
    p: number,
    q: number,
    lum: number,
    n: number,
    matrix: number
  ): void;
  labToRgb(l: number, p: number, q: number, r: number, g: number, b: number, n: number, matrix: number): void;
  lightToLab(l: number, p: number, q: number, n: number, matrix: number): void;
  labToLight(
    l: number,
    p: number,
    q: number,
    r: number,
    g: number,
    b: number,
    n: number,
    matrix: number
  ): void;
  cmykFromRgb(r: number, g: number, b: number, c: number, m: number, y: number, k: number, n: number): void;
  cmykToRgb(c: number, m: number, y: number, k: number, r: number, g: number, b: number, n: number): void;
  widen8(from: number, to: number, n: number, channels: number, scale: number): void;
  widen16(from: number, to: number, n: number, channels: number, scale: number): void;
  widenThree(from: number, r: number, g: number, b: number, n: number, scale: number): void;
  halveThree(top: number, bottom: number, to: number, n: number): void;
  filterRow(from: number, above: number, to: number, n: number, pixel: number): void;
  unfilterRow(from: number, above: number, to: number, n: number, pixel: number, filter: number): void;
  widenFloat(from: number, to: number, n: number, channels: number): void;
  narrow8(from: number, to: number, n: number, channels: number): void;
  narrow16(from: number, to: number, n: number, channels: number): void;
  weaveFloat(from: number, to: number, n: number, channels: number, ranged: number, missing: number): void;
  convolveRows(from: number, to: number, width: number, height: number, weights: number, count: number): void;
  convolveColumns(
    from: number,
    to: number,
    width: number,
    height: number,
    weights: number,
    count: number
  ): void;
  guided(
    plane: number,
    to: number,
    width: number,
    height: number,
    nx: number,
    ny: number,
    nw: number,
    nh: number,
    r: number,
    epsilon: number,
    room: number
  ): void;
  shrinkRow(
    row: number,
    to: number,
    first: number,
    d: number,
    count: number,
    weights: number,
    taps: number
  ): void;
  reducePlane(
    from: number,
    width: number,
    height: number,
    fx: number,
    fy: number,
    to: number,
    cw: number,
    ch: number,
    between: number
  ): void;
  expandPlane(
    coarse: number,
    cx: number,
    cy: number,
    cw: number,
    ch: number,
    fx: number,
    fy: number,
    width: number,
    height: number,
    to: number,
    line: number
  ): void;
  bendPlane(
    from: number,
    to: number,
    n: number,
    starts: number,
    cubics: number,
    hints: number,
    last: number,
    hintScale: number
  ): void;
  bendFew(from: number, to: number, n: number, table: number, count: number): void;
  levelsPlane(
    from: number,
    to: number,
    n: number,
    black: number,
    rest: number,
    scale: number,
    power: number,
    outBlack: number,
    span: number,
    below: number
  ): void;
  turnHues(
    l: number,
    p: number,
    q: number,
    n: number,
    table: number,
    steps: number,
    vibrance: number,
    vivid: number,
    base: number,
    grey: number
  ): void;
  clampPlane(plane: number, n: number): void;
  joinPlane(mask: number, term: number, n: number, mode: number, invert: number, amount: number): void;
  distancePlane(x: number, y: number, z: number, to: number, n: number, matrix: number): void;
  fadePlane(base: number, blended: number, amount: number, n: number): void;
  sharpenPlane(plane: number, soft: number, to: number, n: number, gain: number, threshold: number): void;
  addPlane(to: number, from: number, n: number, weight: number): void;
  anyMissing(r: number, g: number, b: number, n: number): number;
  samePlane(a: number, b: number, n: number): number;
  timesPlane(to: number, by: number, n: number): void;
  scalePlane(plane: number, n: number, scale: number, shift: number): void;
  layPlane(to: number, stroke: number, n: number, flow: number, erase: number): void;
  dilatePlane(
    from: number,
    to: number,
    width: number,
    height: number,
    radius: number,
    wide: number,
    row: number
  ): void;
  rampPlane(
    to: number,
    x: number,
    y: number,
    width: number,
    height: number,
    scale: number,
    map: number,
    round: number
  ): void;
  strokePiece(
    plane: number,
    width: number,
    left: number,
    right: number,
    top: number,
    bottom: number,
    matrix: number
  ): void;
  shrinkBlocks(
    plane: number,
    pilot: number,
    sum: number,
    weights: number,
    width: number,
    height: number,
    threshold: number,
    curve: number,
    step: number,
    room: number
  ): void;
  quotientRows(sum: number, weights: number, to: number, width: number, height: number, stride: number): void;
  halveBlocks(
    from: number,
    x: number,
    y: number,
    width: number,
    height: number,
    to: number,
    w: number,
    h: number
  ): void;
  addDoubled(
    plane: number,
    x: number,
    y: number,
    width: number,
    height: number,
    coarse: number,
    cx: number,
    cy: number,
    cw: number,
    ch: number
  ): void;
  believedPart(coarse: number, made: number, n: number, share: number, curve: number): void;
  splineRows(from: number, to: number, width: number, height: number, step: number): void;
  splineColumns(from: number, to: number, width: number, height: number, step: number): void;
  extremeRows(
    from: number,
    to: number,
    width: number,
    height: number,
    r: number,
    most: boolean,
    line: number
  ): void;
  extremeColumns(from: number, to: number, width: number, height: number, r: number, most: boolean): void;
  screen(r: number, g: number, b: number, alpha: number, to: number, n: number): void;
}

const PAGE = 65536;
/** Kernels work on whole groups of four floats. */
const GROUP = 16;
const MATRIX_BYTES = 128;

const aligned = (bytes: number): number => Math.ceil(bytes / GROUP) * GROUP;

const kernels = new WebAssembly.Module(Uint8Array.from(atob(KERNELS), (c) => c.charCodeAt(0)));
const begun = (): Exports =>
  new WebAssembly.Instance(kernels, { env: { abort: () => undefined } }).exports as unknown as Exports;
/** With the memory that is theirs now: it is another once room was given back. */
export let simd = begun();

const MATRIX = aligned(simd.firstFree());
const BASE = MATRIX + MATRIX_BYTES;
let next = BASE;
/** How far it went since room was last given back. */
let furthest = BASE;

/** The kernels' memory has no room for what is to be taken. */
class NoRoom extends Error {}

/** Where the memory would grow larger than this, planes are ordinary arrays. */
const LARGEST = 640 * 2 ** 20;

/** Whether what is taken has been reckoned with, so that it must find room. */
let reckoned = false;
/** How many rooms are open, one in the other. */
let open = 0;
let short: (bytes: number) => void = () => undefined;

/** @param listener told where there is no room for what was reckoned with: what follows is slow, and no less right */
export const onShort = (listener: (bytes: number) => void): void => void (short = listener);

/**
 * Runs `work` with room for planes in the kernels' memory: what it takes there is valid until it ends. Kernels take the fast
 * way where all their planes lie here.
 * @param bytes that it is going to need; none where it is to make do with what there is
 */
export function inRoom<T>(work: () => T, bytes = 0): T {
  const [mark, before] = [next, reckoned];
  const missing = next + Math.min(bytes, LARGEST) - simd.memory.buffer.byteLength;
  // Growing moves the memory, so it is done before anything is taken, and only while nothing else is open.
  if (missing > 0 && next === BASE) simd.memory.grow(Math.ceil(missing / PAGE));
  if (bytes > 0) reckoned = bytes <= LARGEST;
  open++;
  try {
    return work();
  } finally {
    open--;
    next = mark;
    reckoned = before;
  }
}

/** A plane in the kernels' memory, with whatever it last held; an ordinary array where there is no room left, or none open. */
export function takePlane(length: number): Float32Array {
  const at = take(length * 4);
  if (at === null) return new Float32Array(length);
  return new Float32Array(simd.memory.buffer, at, length);
}

/** Bytes in the kernels' memory for samples on their way in or out; only within the fast way of `eitherWay` or `whereRoom`. */
export function takeBytes(bytes: number): { address: number; view: Uint8Array<ArrayBuffer> } {
  const address = take(bytes);
  if (address === null) throw new NoRoom();
  return { address, view: new Uint8Array(simd.memory.buffer, address, bytes) };
}

/** The address of a table that a kernel reads, put into its memory; only within a fast way as well. */
export function takeTable(table: Float32Array | Float64Array | Int32Array | Uint16Array): number {
  const { address, view } = takeBytes(table.byteLength);
  view.set(new Uint8Array(table.buffer, table.byteOffset, table.byteLength));
  return address;
}

function take(bytes: number): number | null {
  // Outside of any room nothing would ever be given back, and the memory could not grow any more.
  if (open === 0) return null;
  const at = next;
  if (at + aligned(bytes) > simd.memory.buffer.byteLength) {
    if (reckoned) short(bytes);
    return null;
  }
  next = at + aligned(bytes);
  furthest = Math.max(furthest, next);
  return at;
}

/** So much stays, and is not worth giving back. */
const KEPT = 32 * 2 ** 20;

/**
 * Gives room back that was not needed since the last time this was called, if it is much: a memory of kernels only grows, so they
 * begin anew with a smaller one.
 * @returns whether there is more than has to stay
 */
export function giveRoomBack(): boolean {
  const held = simd.memory.buffer.byteLength;
  if (next === BASE && held > Math.max(KEPT, 2 * furthest)) {
    simd = begun();
    const missing = Math.max(KEPT, furthest) - simd.memory.buffer.byteLength;
    if (missing > 0) simd.memory.grow(Math.ceil(missing / PAGE));
  }
  furthest = next;
  return simd.memory.buffer.byteLength > KEPT;
}

/** Whether all planes lie in the kernels' memory, where a kernel may run to the end of the last group of four. */
export const inArena = (planes: readonly Float32Array[]): boolean =>
  planes.every((plane) => plane.buffer === simd.memory.buffer && plane.byteOffset % GROUP === 0);

/** Runs the fast way of a kernel where it has room for what it takes, else the plain one. Room is taken before anything is written. */
export function whereRoom<T>(fast: () => T, plain: () => T, bytes = 0): T {
  try {
    return inRoom(fast, bytes);
  } catch (error) {
    if (!(error instanceof NoRoom)) throw error;
    return plain();
  }
}

/**
 * A kernel's two ways: the fast one with the addresses of all planes where they lie in the kernels' memory, in their order,
 * the plain one where they do not.
 */
export function eitherWay<T>(
  planes: readonly Float32Array[],
  fast: (...at: number[]) => T,
  plain: () => T
): T {
  if (!inArena(planes)) return plain();
  return whereRoom(() => fast(...planes.map((plane) => plane.byteOffset)), plain);
}

/** Puts coefficients where a kernel finds them. */
export function matrixAt(values: readonly number[]): number {
  new Float32Array(simd.memory.buffer, MATRIX, values.length).set(values);
  return MATRIX;
}
