import { invert, multiply, type Matrix3 } from '../colour/xyz';
import type { Rect } from './raster';

export interface Point {
  readonly x: number;
  readonly y: number;
}

/**
 * How a picture lies on its frame: its size, and the projective map from its places to those of the frame, both in
 * full-size pixels counted from the upper left corner of the upper left pixel.
 */
export interface Geometry {
  readonly width: number;
  readonly height: number;
  readonly toFrame: Matrix3;
  /** Size of the frame. */
  readonly frame: { readonly width: number; readonly height: number };
}

const IDENTITY: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** A picture that lies on its frame as it is. */
export const lyingPlain = ({ width, height }: { width: number; height: number }): Geometry => ({
  width,
  height,
  toFrame: IDENTITY,
  frame: { width, height }
});

export const isPlain = ({ width, height, toFrame, frame }: Geometry): boolean =>
  width === frame.width && height === frame.height && toFrame.every((v, i) => v === IDENTITY[i]);

/** A place through a projective map. */
export function project(m: Matrix3, { x, y }: Point): Point {
  const w = m[6] * x + m[7] * y + m[8];
  return { x: (m[0] * x + m[1] * y + m[2]) / w, y: (m[3] * x + m[4] * y + m[5]) / w };
}

export const toFrame = (g: Geometry, p: Point): Point => project(g.toFrame, p);
export const fromFrame = (g: Geometry, p: Point): Point => project(invert(g.toFrame), p);

export const translation = (x: number, y: number): Matrix3 => [1, 0, x, 0, 1, y, 0, 0, 1];

/** A turn about a place by degrees, clockwise on the screen. */
export function rotation(degrees: number, { x, y }: Point): Matrix3 {
  const angle = (degrees * Math.PI) / 180;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return multiply(translation(x, y), multiply([c, -s, 0, s, c, 0, 0, 0, 1], translation(-x, -y)));
}

/** The projective map that takes the unit square's corners (0,0 1,0 1,1 0,1) to four places (Heckbert 1989). */
export function squareTo([p0, p1, p2, p3]: readonly Point[]): Matrix3 {
  const [dx1, dx2] = [p1.x - p2.x, p3.x - p2.x];
  const [dy1, dy2] = [p1.y - p2.y, p3.y - p2.y];
  const sx = p0.x - p1.x + p2.x - p3.x;
  const sy = p0.y - p1.y + p2.y - p3.y;
  const d = dx1 * dy2 - dx2 * dy1;
  const g = (sx * dy2 - dx2 * sy) / d;
  const h = (dx1 * sy - sx * dy1) / d;
  return [
    p1.x - p0.x + g * p1.x,
    p3.x - p0.x + h * p3.x,
    p0.x,
    p1.y - p0.y + g * p1.y,
    p3.y - p0.y + h * p3.y,
    p0.y,
    g,
    h,
    1
  ];
}

/**
 * The largest rectangle about the middle that shows nothing beside the frame.
 * @param ratio its width over its height; the geometry's own proportions where it is left out
 */
export function innerRect(
  { toFrame: map, frame, ...canvas }: Geometry,
  ratio = canvas.width / canvas.height
): Rect {
  const width = Math.min(canvas.width, canvas.height * ratio);
  const height = width / ratio;
  const fits = (s: number): boolean =>
    [-1, 1].every((u) =>
      [-1, 1].every((v) => {
        const p = project(map, {
          x: (canvas.width + s * u * width) / 2,
          y: (canvas.height + s * v * height) / 2
        });
        const slack = 1e-6 * Math.max(frame.width, frame.height);
        return p.x >= -slack && p.y >= -slack && p.x <= frame.width + slack && p.y <= frame.height + slack;
      })
    );
  let [low, high] = [0, 1];
  if (fits(1)) low = 1;
  else
    for (let i = 0; i < 40; i++) {
      const middle = (low + high) / 2;
      if (fits(middle)) low = middle;
      else high = middle;
    }
  const inner = {
    width: Math.max(1, Math.floor(width * low + 1e-6)),
    height: Math.max(1, Math.floor(height * low + 1e-6))
  };
  return {
    ...inner,
    x: Math.round((canvas.width - inner.width) / 2),
    y: Math.round((canvas.height - inner.height) / 2)
  };
}
