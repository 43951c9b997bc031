import { z } from 'zod';
import { referenceSchema, type Reference } from '../document/mask';
import { DocumentError } from '../document/problem';
import { agreementOf, mapped, type Similarity } from '../measure/similarity';
import { starsIn, type StarPlace } from '../measure/star-places';
import { invert, type Matrix3 } from '../colour/xyz';
import type { Point } from '../raster/geometry';
import { said } from './fields';
import { coloursLeft, defineOp, type Asked, type Solving } from './op';

const number = (): z.ZodNumber => z.number({ error: 'must be a number' });

/** How the frame is moved to lie on the other: turned clockwise and scaled about its middle, then moved right and down, in pixels. */
const lying = z.strictObject({
  x: number(),
  y: number(),
  turn: number().min(-180, 'must be at least −180°').max(180, 'must be at most 180°'),
  scale: number().min(0.1, 'must be at least 0.1').max(10, 'must be at most 10')
});
export type Registered = z.infer<typeof lying>;

const params = z.strictObject({
  to: referenceSchema.nullable().default(null),
  /** As it was found; null is found anew from the stars. */
  found: lying.nullable().default(null)
});
export type RegisterParams = z.infer<typeof params>;

/** What was found, by how many stars, and how far apart they lie then, in pixels. */
export interface Registration extends Registered {
  readonly stars: number;
  readonly rms: number;
}

/** So many of the brightest stars are looked at. */
const MOST = 120;

/** What a map comes to about the middle of the frame. */
function registration(map: Similarity, middle: Point): Registered {
  const at = mapped(map, middle);
  return {
    x: at.x - middle.x,
    y: at.y - middle.y,
    turn: (Math.atan2(map.b, map.a) * 180) / Math.PI,
    scale: Math.hypot(map.a, map.b)
  };
}

/** From places of the frame to those of what it is brought onto. */
function matrixOf(
  { x, y, turn, scale }: Registered,
  { width, height }: { width: number; height: number }
): Matrix3 {
  const angle = (turn * Math.PI) / 180;
  const [a, b] = [scale * Math.cos(angle), scale * Math.sin(angle)];
  const [cx, cy] = [width / 2, height / 2];
  return [a, -b, cx + x - a * cx + b * cy, b, a, cy + y - b * cx - a * cy, 0, 0, 1];
}

function* solve({ to }: { to: Reference }, asked: Asked): Solving<Registration> {
  const raster = yield* asked.analysis();
  const other = yield* asked.analysisOf(to);
  let told = 0;
  const places: StarPlace[][] = [];
  for (const looking of [
    starsIn(raster, asked.size, (rect) => asked.region(rect), MOST),
    starsIn(other, asked.size, (rect) => asked.regionOf(to, rect), MOST)
  ]) {
    let step = looking.next();
    for (; !step.done; step = looking.next()) yield Math.min(0.99, ++told / (2 * MOST));
    places.push(step.value);
  }
  const [own, theirs] = places;
  const agreement = agreementOf(own, theirs);
  if (!agreement) {
    throw new DocumentError(
      `It can’t be brought onto the other picture: of its ${own.length} brightest stars and the other’s ${theirs.length} too few stand to each other alike. Choose a picture of the same field, or one whose stars are not drowned by its sky.`
    );
  }
  const { pairs, rms, map } = agreement;
  const { width, height } = asked.size;
  return { ...registration(map, { x: width / 2, y: height / 2 }), stars: pairs, rms };
}

/** The picture brought onto another by the stars that both show: a shift, a turn and a scale, part of the one resampling. */
export const register = defineOp<
  RegisterParams,
  Registered | Registration | null,
  Registration,
  { to: Reference }
>({
  id: 'register',
  title: 'Bring onto another',
  purpose: 'Lays a frame on another by the stars that both show: moved, turned and scaled',
  words: [
    'register',
    'align',
    'alignment',
    'stars',
    'shift',
    'rotate',
    'astro',
    'dither',
    'stack',
    'overlap'
  ],
  params,
  kind: 'geometry',
  ownModel: () => 'rgb',
  takes: ({ to }) => (to ? [{ picture: to, whileSolving: true }] : []),
  sentence({ to, found }) {
    if (!to) return 'Onto another picture, not chosen yet';
    if (!found) return 'Onto another picture, by the stars of both';
    const { x, y, turn, scale } = found;
    return `Onto another picture: moved ${said(x, 2)}, ${said(y, 2)} px, turned ${said(turn, 3)}°, scaled ${said(100 * scale, 3)} %`;
  },
  needs: ({ to, found }) => (to && !found ? { to } : null),
  solve,
  prepare: ({ to, found }, _, solution) => (to ? (found ?? solution) : null),
  solved: (found) => found ?? {},
  kernel: coloursLeft,
  lies({ to, found }, size, solution) {
    const lying = found ?? solution;
    return to && lying ? invert(matrixOf(lying, size)) : null;
  }
});
