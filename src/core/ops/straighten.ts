import { shown } from './controls';
import { z } from 'zod';
import {
  innerRect,
  isPlain,
  rotation,
  squareTo,
  translation,
  type Geometry,
  type Point
} from '../raster/geometry';
import { invert, multiply, type Matrix3 } from '../colour/xyz';
import { degrees, said } from './fields';
import { coloursLeft, defineOp } from './op';

/** As many as a picture that is opened may have. */
const MOST_PIXELS = 268_000_000;

const place = z.number({ error: 'must be a number (pixels)' });
const corner = z.tuple([place, place]);
const whole = place.int('must be a whole number of pixels');

const params = z.strictObject({
  /** Clockwise. */
  angle: degrees(-180, 180)
    .register(shown, { label: 'angle', unit: '°', slider: [-15, 15], step: 0.1 })
    .default(0),
  /** Places of the picture that become the corners of an upright rectangle: upper left, upper right, lower right, lower left. */
  corners: z
    .tuple([corner, corner, corner, corner])
    .refine(turnsOneWay, 'must go round clockwise, upper left first, without crossing')
    .nullable()
    .default(null),
  /** In pixels after corners and angle; null is the largest part without empty corners. */
  crop: z
    .strictObject({
      x: whole,
      y: whole,
      width: whole.min(1, 'must be at least 1'),
      height: whole.min(1, 'must be at least 1')
    })
    .refine(
      ({ width, height }) => width * height <= MOST_PIXELS,
      `must hold at most ${MOST_PIXELS / 1e6} million pixels`
    )
    .nullable()
    .default(null)
});
export type StraightenParams = z.infer<typeof params>;

function turnsOneWay(corners: readonly (readonly [number, number])[]): boolean {
  return corners.every(([x, y], i) => {
    const [bx, by] = corners[(i + 1) % 4];
    const [cx, cy] = corners[(i + 2) % 4];
    return (bx - x) * (cy - by) - (by - y) * (cx - bx) > 1e-6;
  });
}

const distance = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y);

/** The map that sets four places upright: the rectangle of their mean sides about their middle. Result → input. */
function upright(corners: NonNullable<StraightenParams['corners']>): Matrix3 {
  const points = corners.map(([x, y]) => ({ x, y }));
  const [p0, p1, p2, p3] = points;
  const width = (distance(p0, p1) + distance(p3, p2)) / 2;
  const height = (distance(p0, p3) + distance(p1, p2)) / 2;
  const middle = {
    x: points.reduce((sum, p) => sum + p.x, 0) / 4,
    y: points.reduce((sum, p) => sum + p.y, 0) / 4
  };
  const square: Matrix3 = [width, 0, middle.x - width / 2, 0, height, middle.y - height / 2, 0, 0, 1];
  return multiply(squareTo(points), invert(square));
}

/**
 * The picture with corners and angle set right, not cropped: as large as what came in, upright where it was lying when it
 * is nearer to a quarter turn; half way, at ±45° and ±135°, it stays.
 */
export function uncropped(
  { angle, corners }: Pick<StraightenParams, 'angle' | 'corners'>,
  before: Geometry
): Geometry {
  let map = before.toFrame;
  if (corners) map = multiply(map, upright(corners));
  if (angle === 0) return { ...before, toFrame: map };
  const lying = Math.abs(angle) > 45 && Math.abs(angle) < 135;
  const [width, height] = lying ? [before.height, before.width] : [before.width, before.height];
  const turn = multiply(
    translation(before.width / 2, before.height / 2),
    multiply(rotation(-angle, { x: 0, y: 0 }), translation(-width / 2, -height / 2))
  );
  return { ...before, width, height, toFrame: multiply(map, turn) };
}

/** Rotation, perspective and crop; all straighten steps of a path together are one resampling by Lanczos 3. */
export const straighten = defineOp<StraightenParams, null>({
  id: 'straighten',
  title: 'Straighten',
  purpose: 'Sets the picture level and upright, and crops it',
  words: [
    'rotate',
    'turn',
    'crop',
    'perspective',
    'horizon',
    'level',
    'cut',
    'keystone',
    'upright',
    'angle',
    'aspect',
    '3:2',
    'lines'
  ],
  params,
  kind: 'geometry',
  ownModel: () => 'rgb',
  sentence({ angle, corners, crop }) {
    const parts: string[] = [];
    if (angle) parts.push(`turn by ${said(angle, 2)}°`);
    if (corners) parts.push('set four corners upright');
    if (crop) parts.push(`crop to ${crop.width} × ${crop.height}`);
    const text = parts.join(', ');
    return text ? text[0].toUpperCase() + text.slice(1) : 'Level as it is';
  },
  prepare: () => null,
  kernel: coloursLeft,
  geometry(params, before) {
    const set = uncropped(params, before);
    if (!params.crop && isPlain(set)) return set;
    const crop = params.crop ?? innerRect(set);
    const { x, y, width, height } = crop;
    return { ...set, width, height, toFrame: multiply(set.toFrame, translation(x, y)) };
  }
});
