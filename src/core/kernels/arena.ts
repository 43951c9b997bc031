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
  screen(r: number, g: number, b: number, alpha: number, to: number, n: number): void;
}

const PAGE = 65536;
/** Kernels work on whole groups of four floats. */
const GROUP = 16;
const MATRIX_BYTES = 128;

const aligned = (bytes: number): number => Math.ceil(bytes / GROUP) * GROUP;

const instance = new WebAssembly.Instance(
  new WebAssembly.Module(Uint8Array.from(atob(KERNELS), (c) => c.charCodeAt(0))),
  { env: { abort: () => undefined } }
);
export const simd = instance.exports as unknown as Exports;

const MATRIX = aligned(simd.firstFree());
const BASE = MATRIX + MATRIX_BYTES;
let next = BASE;

/**
 * Room for planes in the kernels' memory. A block is opened for one evaluation and closed with it; what was
 * taken from it is valid until then. Kernels take the fast way where all their planes lie here.
 */
export function openArena(bytes: number): number {
  const missing = next + bytes - simd.memory.buffer.byteLength;
  // Growing moves the memory, so it is done before anything is taken, and only while nothing else is open.
  if (missing > 0 && next === BASE) simd.memory.grow(Math.ceil(missing / PAGE));
  return next;
}

export function closeArena(mark: number): void {
  next = mark;
}

/** A plane in the arena, with whatever it last held; an ordinary array where the arena has no room left. */
export function takePlane(length: number): Float32Array {
  const at = take(length * 4);
  if (at === null) return new Float32Array(length);
  return new Float32Array(simd.memory.buffer, at, length);
}

/** Bytes in the arena for samples on their way in or out, or null where there is no room. */
export function takeBytes(bytes: number): { address: number; view: Uint8Array<ArrayBuffer> } | null {
  const address = take(bytes);
  return address === null ? null : { address, view: new Uint8Array(simd.memory.buffer, address, bytes) };
}

/** Puts a table in the arena for a kernel to read; its address, or null where there is no room. */
export function takeTable(table: Float32Array | Float64Array | Int32Array | Uint16Array): number | null {
  const room = takeBytes(table.byteLength);
  room?.view.set(new Uint8Array(table.buffer, table.byteOffset, table.byteLength));
  return room && room.address;
}

function take(bytes: number): number | null {
  const at = next;
  if (at + aligned(bytes) > simd.memory.buffer.byteLength) return null;
  next = at + aligned(bytes);
  return at;
}

/** Whether all planes lie in the kernels' memory, where a kernel may run to the end of the last group of four. */
export function inArena(...lists: readonly (readonly Float32Array[])[]): boolean {
  const { buffer } = simd.memory;
  return lists.every((planes) => planes.every((p) => p.buffer === buffer && p.byteOffset % GROUP === 0));
}

/** Puts coefficients where a kernel finds them. */
export function matrixAt(values: readonly number[]): number {
  new Float32Array(simd.memory.buffer, MATRIX, values.length).set(values);
  return MATRIX;
}
