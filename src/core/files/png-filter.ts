/** PNG filters (W3C PNG, section 9). A row's first byte names its filter; `above` is the unfiltered row above. */

function paeth(a: number, b: number, c: number): number {
  const p = a + b - c;
  const pa = p > a ? p - a : a - p;
  const pb = p > b ? p - b : b - p;
  const pc = p > c ? p - c : c - p;
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
}

/** Undoes the filter of `row` in place; `pixelBytes` is the distance to the pixel on the left. */
export function unfilter(row: Uint8Array, above: Uint8Array, pixelBytes: number): void {
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

/** Filters `row` by Paeth into `out`, one byte longer than the row. */
export function filterPaeth(row: Uint8Array, above: Uint8Array, pixelBytes: number, out: Uint8Array): void {
  out[0] = 4;
  for (let i = 0; i < pixelBytes; i++) out[i + 1] = row[i] - above[i];
  for (let i = pixelBytes; i < row.length; i++) {
    out[i + 1] = row[i] - paeth(row[i - pixelBytes], above[i], above[i - pixelBytes]);
  }
}
