import { simd, takeBytes, whereRoom } from '../kernels/arena';

/** PNG filters (W3C PNG, section 9). A row's first byte names its filter; `above` is the unfiltered row above. */

/** Shorter rows are not worth the way into the kernels' memory. */
const LONG = 256;
/** Bytes that a kernel may touch behind a row. */
const BEHIND = 16;
const NONE = 0;

function paeth(a: number, b: number, c: number): number {
  const p = a + b - c;
  const pa = p > a ? p - a : a - p;
  const pb = p > b ? p - b : b - p;
  const pc = p > c ? p - c : c - p;
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
}

/** Undoes the filter of `row` in place; `pixelBytes` is the distance to the pixel on the left, 8 at most. */
export function unfilter(row: Uint8Array, above: Uint8Array, pixelBytes: number): void {
  if (row[0] === NONE) return;
  const n = row.length - 1;
  const plainly = (): void => unfilterPlainly(row, above, pixelBytes);
  if (n < LONG) return plainly();
  const length = n + BEHIND;
  const fast = (): void => {
    const [from, up, to] = [takeBytes(length), takeBytes(length), takeBytes(length)];
    from.view.set(row.subarray(1));
    up.view.set(above.subarray(1));
    simd.unfilterRow(from.address, up.address, to.address, n, pixelBytes, row[0]);
    row.set(to.view.subarray(0, n), 1);
  };
  whereRoom(fast, plainly, 3 * (length + BEHIND));
}

/** What the kernel is tested against. */
export function unfilterPlainly(row: Uint8Array, above: Uint8Array, pixelBytes: number): void {
  const n = row.length;
  const first = 1 + pixelBytes;
  switch (row[0]) {
    case 1:
      for (let i = first; i < n; i++) row[i] += row[i - pixelBytes];
      break;
    case 2:
      for (let i = 1; i < n; i++) row[i] += above[i];
      break;
    case 3:
      for (let i = 1; i < first && i < n; i++) row[i] += above[i] >> 1;
      for (let i = first; i < n; i++) row[i] += (row[i - pixelBytes] + above[i]) >> 1;
      break;
    case 4:
      for (let i = 1; i < first && i < n; i++) row[i] += above[i];
      for (let i = first; i < n; i++) {
        row[i] += paeth(row[i - pixelBytes], above[i], above[i - pixelBytes]);
      }
  }
}

/** Room in front of a row for the pixel on the left of its first. */
const BEFORE = 16;

/** Filters `row` by Paeth into `out`, one byte longer than the row. */
export function filterPaeth(row: Uint8Array, above: Uint8Array, pixelBytes: number, out: Uint8Array): void {
  const n = row.length;
  const plainly = (): void => filterPlainly(row, above, pixelBytes, out);
  if (n < LONG) return plainly();
  const length = BEFORE + n + BEHIND;
  const fast = (): void => {
    const [from, up, to] = [takeBytes(length), takeBytes(length), takeBytes(length)];
    for (const [room, bytes] of [[from, row] as const, [up, above] as const]) {
      room.view.fill(0, 0, BEFORE);
      room.view.set(bytes, BEFORE);
    }
    const [x, y, z] = [from, up, to].map(({ address }) => address + BEFORE);
    simd.filterRow(x, y, z, n, pixelBytes);
    out[0] = 4;
    out.set(to.view.subarray(BEFORE, BEFORE + n), 1);
  };
  whereRoom(fast, plainly, 3 * (length + BEHIND));
}

/** What the kernel is tested against. */
export function filterPlainly(row: Uint8Array, above: Uint8Array, pixelBytes: number, out: Uint8Array): void {
  out[0] = 4;
  for (let i = 0; i < pixelBytes; i++) out[i + 1] = row[i] - above[i];
  for (let i = pixelBytes; i < row.length; i++) {
    out[i + 1] = row[i] - paeth(row[i - pixelBytes], above[i], above[i - pixelBytes]);
  }
}
