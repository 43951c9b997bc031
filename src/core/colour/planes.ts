/** One Float32Array a channel, all of the same length. */
export type Planes = readonly Float32Array[];

/** `count` planes of `length` samples each, zero. */
export function newPlanes(count: number, length: number): Float32Array[] {
  return Array.from({ length: count }, () => new Float32Array(length));
}
