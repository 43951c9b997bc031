/**
 * sRGB primaries and D65 (IEC 61966-2-1), adapted to the D50 of the ICC profile connection space by the
 * linear Bradford transform (ICC.1:2022, annex E). Matrices are row by row.
 */
export type Matrix3 = readonly [number, number, number, number, number, number, number, number, number];
export type Vector3 = readonly [number, number, number];

/** ICC profile connection space white. */
export const D50: Vector3 = [0.9642, 1, 0.8249];

export function multiply(a: Matrix3, b: Matrix3): Matrix3 {
  return Array.from({ length: 9 }, (_, i) => {
    const row = Math.floor(i / 3) * 3;
    const column = i % 3;
    return a[row] * b[column] + a[row + 1] * b[column + 3] + a[row + 2] * b[column + 6];
  }) as unknown as Matrix3;
}

export function transform(m: Matrix3, v: Vector3): Vector3 {
  return [
    m[0] * v[0] + m[1] * v[1] + m[2] * v[2],
    m[3] * v[0] + m[4] * v[1] + m[5] * v[2],
    m[6] * v[0] + m[7] * v[1] + m[8] * v[2]
  ];
}

export function invert(m: Matrix3): Matrix3 {
  const [a, b, c, d, e, f, g, h, i] = m;
  const determinant = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  return [
    e * i - f * h,
    c * h - b * i,
    b * f - c * e,
    f * g - d * i,
    a * i - c * g,
    c * d - a * f,
    d * h - e * g,
    b * g - a * h,
    a * e - b * d
  ].map((x) => x / determinant) as unknown as Matrix3;
}

export const BRADFORD: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];

export const fromChromaticity = (x: number, y: number): Vector3 => [x / y, 1, (1 - x - y) / y];

function primariesToXyz(red: Vector3, green: Vector3, blue: Vector3, white: Vector3): Matrix3 {
  const p: Matrix3 = [red[0], green[0], blue[0], red[1], green[1], blue[1], red[2], green[2], blue[2]];
  const s = transform(invert(p), white);
  return p.map((value, i) => value * s[i % 3]) as unknown as Matrix3;
}

/** XYZ under one white → XYZ under another. */
export function bradford(from: Vector3, to: Vector3): Matrix3 {
  const a = transform(BRADFORD, from);
  const b = transform(BRADFORD, to);
  const scale: Matrix3 = [b[0] / a[0], 0, 0, 0, b[1] / a[1], 0, 0, 0, b[2] / a[2]];
  return multiply(invert(BRADFORD), multiply(scale, BRADFORD));
}

/** The white of sRGB, as XYZ with Y = 1. */
export const D65 = fromChromaticity(0.3127, 0.329);

/** Linear sRGB → XYZ of its own white. */
export const primaryMatrix: Matrix3 = primariesToXyz(
  fromChromaticity(0.64, 0.33),
  fromChromaticity(0.3, 0.6),
  fromChromaticity(0.15, 0.06),
  D65
);

/** Linear RGB of some primaries and white, all as XYZ, → XYZ relative to D50. */
export const primariesToD50 = (red: Vector3, green: Vector3, blue: Vector3, white: Vector3): Matrix3 =>
  multiply(bradford(white, D50), primariesToXyz(red, green, blue, white));

/** Linear sRGB → XYZ relative to D50, white = (0.9642, 1, 0.8249). */
export const RGB_TO_XYZ: Matrix3 = multiply(bradford(D65, D50), primaryMatrix);

/** XYZ relative to D50 → linear sRGB. */
export const XYZ_TO_RGB: Matrix3 = invert(RGB_TO_XYZ);
