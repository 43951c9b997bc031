// PNG filters (W3C PNG, section 9), undone for pixels of up to eight bytes: one after another, all bytes of a pixel at once.

// @ts-ignore: decorator
@inline
function bytesAt(at: usize): v128 {
  return i16x8.extend_low_i8x16_u(v128.load64_zero(at));
}

// @ts-ignore: decorator
@inline
function paeth(a: v128, b: v128, c: v128): v128 {
  const left = i16x8.abs(i16x8.sub(b, c)), up = i16x8.abs(i16x8.sub(a, c));
  const both = i16x8.abs(i16x8.sub(i16x8.add(a, b), i16x8.add(c, c)));
  const other = v128.bitselect(b, c, i16x8.le_s(up, both));
  return v128.bitselect(a, other, v128.and(i16x8.le_s(left, up), i16x8.le_s(left, both)));
}

/**
 * Undoes `filter` of a row of `n` bytes from `from` into `to`; `above` is the unfiltered row above, `pixel` the bytes of a pixel.
 * Up to 16 bytes behind a row are read, and behind `to` written to.
 */
export function unfilterRow(from: usize, above: usize, to: usize, n: i32, pixel: i32, filter: i32): void {
  const step = <usize>pixel, end = from + <usize>n;
  if (filter === 0 || filter === 2) {
    for (let at: usize = 0; at < <usize>n; at += 16) {
      const x = v128.load(from + at);
      v128.store(to + at, filter === 0 ? x : i8x16.add(x, v128.load(above + at)));
    }
    return;
  }
  const low = i16x8.splat(255);
  let a = i16x8.splat(0), c = i16x8.splat(0);
  for (; from < end; from += step, above += step, to += step) {
    const x = bytesAt(from);
    const b = bytesAt(above);
    let guess = a;
    if (filter === 3) guess = i16x8.shr_u(i16x8.add(a, b), 1);
    else if (filter === 4) guess = paeth(a, b, c);
    a = v128.and(i16x8.add(x, guess), low);
    c = b;
    v128.store64_lane(to, i8x16.narrow_i16x8_u(a, a), 0);
  }
}

/**
 * Filters a row of `n` bytes at `from` by Paeth into `to`; `above` is the row above. In front of both stand `pixel` bytes of 0. Up
 * to 8 bytes behind a row are read, and behind `to` written to.
 */
export function filterRow(from: usize, above: usize, to: usize, n: i32, pixel: i32): void {
  const step = <usize>pixel, low = i16x8.splat(255);
  for (let at: usize = 0; at < <usize>n; at += 8) {
    const guess = paeth(bytesAt(from + at - step), bytesAt(above + at), bytesAt(above + at - step));
    const rest = v128.and(i16x8.sub(bytesAt(from + at), guess), low);
    v128.store64_lane(to + at, i8x16.narrow_i16x8_u(rest, rest), 0);
  }
}
