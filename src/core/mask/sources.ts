import { channelOf } from '../colour';
import type { Combine, MaskSource } from '../document/mask';
import type { CurvePoint } from '../curve';
import { eitherWay, simd, takeTable } from '../kernels/arena';
import { project, type Geometry } from '../raster/geometry';
import { oklabFromLab, oklabPlanes } from './oklab';
import type { MaskGround } from './ground';
import { paintStrokes, prepareStroke, type PreparedStroke } from './paint';
import { addTo, distanceFrom } from './planes';
import type { PreparedMask } from './prepare';

export type Kind = MaskSource['kind'];
type Of<K extends Kind> = Extract<MaskSource, { kind: K }>;

/** What a source may ask while it is made ready. */
export interface Preparing {
  readonly geometry: Geometry;
  /** The place among the pictures beside the step of one that is referred to. */
  picture(reference: { picture: string; after?: string }): number;
  mask(id: string): PreparedMask;
}

/** One kind of mask source: what it is, and the plane it makes before the curve. */
export interface SourceKind<K extends Kind = Kind, P = unknown> {
  readonly kind: K;
  readonly title: string;
  /** Whether it means the same on another picture: places on this one don't. */
  readonly carries: boolean;
  /** The curve where a term names none; left out for the straight one. */
  readonly curve?: readonly CurvePoint[];
  /** Values that wrap round, so that their curve does as well. */
  wraps?(source: Of<K>): boolean;
  prepare(source: Of<K>, given: Preparing): P;
  fill(prepared: P, ground: MaskGround, out: Float32Array): void;
  /** Where it has no value, so that its term has no effect; null where it has one everywhere. */
  absent?(prepared: P, ground: MaskGround): readonly number[] | null;
}

const define = <K extends Kind, P>(kind: SourceKind<K, P>): SourceKind => kind as unknown as SourceKind;

const PLAIN_SCALES: Readonly<Record<'ab' | 'lab' | 'oklab', readonly number[]>> = {
  ab: [0, 256, 256],
  lab: [100, 256, 256],
  oklab: [1, 1, 1]
};

/** Every source there is, in the order in which they are offered. */
export const sourceKinds: readonly SourceKind[] = [
  define<'channel', { id: string; of: number | null }>({
    kind: 'channel',
    title: 'Channel',
    carries: true,
    wraps: ({ channel }) => channelOf(channel).readout.unit === '°',
    prepare: ({ channel, of }, { picture }) => ({ id: channel, of: of ? picture(of) : null }),
    fill: ({ id, of }, ground, out) => out.set(ground.channel(id, of).subarray(0, ground.n)),
    absent: ({ of }, ground) => ground.absent(of)
  }),
  define<'mix', { weights: [string, number][]; constant: number }>({
    kind: 'mix',
    title: 'Mix of channels',
    carries: true,
    prepare: ({ weights, constant }) => ({
      weights: Object.entries(weights) as [string, number][],
      constant
    }),
    fill({ weights, constant }, ground, out) {
      out.fill(constant, 0, ground.n);
      for (const [id, weight] of weights) addTo(out, ground.channel(id), weight, ground.n);
    }
  }),
  define<'distance', { space: 'ab' | 'lab' | 'oklab'; place: readonly number[]; range: number }>({
    kind: 'distance',
    title: 'Distance to a colour',
    carries: true,
    curve: [
      [0, 1],
      [1, 0]
    ],
    prepare: ({ to: [l, a, b], space, range }) => ({
      space,
      range,
      place: space === 'oklab' ? oklabFromLab([l, a, b]) : [l / 100, a / 256 + 0.5, b / 256 + 0.5]
    }),
    fill({ space, place, range }, ground, out) {
      const planes =
        space === 'oklab' ? oklabPlanes(ground) : ['lab.l', 'lab.a', 'lab.b'].map((id) => ground.channel(id));
      const scales = PLAIN_SCALES[space].map((s) => s / range);
      distanceFrom(planes, place, scales, out, ground.n);
    }
  }),
  define<'toward', { x: number; y: number }>({
    kind: 'toward',
    title: 'Toward a hue',
    carries: true,
    prepare({ hue, across }) {
      const angle = ((hue + (across ? 90 : 0)) * Math.PI) / 180;
      return { x: Math.cos(angle), y: Math.sin(angle) };
    },
    fill({ x, y }, ground, out) {
      // The stored values lie about 0.5 and count 1/256 a unit, as the source's own do.
      out.fill(0.5 - 0.5 * (x + y), 0, ground.n);
      addTo(out, ground.channel('lab.a'), x, ground.n);
      addTo(out, ground.channel('lab.b'), y, ground.n);
    }
  }),
  define<'paint', readonly PreparedStroke[]>({
    kind: 'paint',
    title: 'Paint',
    carries: false,
    prepare: ({ strokes }, { geometry }) =>
      strokes.map((stroke) => prepareStroke(stroke, geometry.toFrame.every(isIdentity) ? null : geometry)),
    fill: (strokes, ground, out) => paintStrokes(strokes, ground, ground.scale, out)
  }),
  define<'ramp', Of<'ramp'> & { geometry: Geometry }>({
    kind: 'ramp',
    title: 'Ramp',
    carries: false,
    prepare: (source, { geometry }) => ({ ...source, geometry }),
    fill: fillRamp
  }),
  define<'mask', PreparedMask>({
    kind: 'mask',
    title: 'Named mask',
    carries: false,
    prepare: ({ id }, { mask }) => mask(id),
    fill: (mask, ground, out) => ground.namedMask(mask, out)
  })
];

export const sourceKind = (kind: Kind): SourceKind => sourceKinds.find((s) => s.kind === kind)!;

function isIdentity(v: number, i: number): boolean {
  return v === (i % 4 === 0 ? 1 : 0);
}

/** 1 at `from`, straight down to 0 at `to`; round: 1 in the middle `from`, 0 as far from it as `to` is. */
function fillRamp(
  { shape, from, to, geometry }: Of<'ramp'> & { geometry: Geometry },
  { x, y, width, height, scale }: MaskGround,
  out: Float32Array
): void {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const length2 = Math.max(1e-9, dx * dx + dy * dy);
  eitherWay(
    [out],
    (to) => {
      const map = takeTable(Float64Array.of(...geometry.toFrame, ...from, dx, dy, length2));
      simd.rampPlane(to, x, y, width, height, scale, map, Number(shape === 'round'));
    },
    () => {
      for (let v = 0, i = 0; v < height; v++) {
        for (let u = 0; u < width; u++, i++) {
          const p = project(geometry.toFrame, { x: (x + u + 0.5) / scale, y: (y + v + 0.5) / scale });
          const [px, py] = [p.x - from[0], p.y - from[1]];
          out[i] =
            1 -
            (shape === 'round' ? Math.sqrt((px * px + py * py) / length2) : (px * dx + py * dy) / length2);
        }
      }
    }
  );
}

/** Modes in which a term joins what stands before it, and what each does. */
export const combinations: readonly {
  readonly id: Combine;
  readonly title: string;
  readonly does: string;
}[] = [
  { id: 'intersect', title: 'and', does: 'only where both are' },
  { id: 'add', title: 'or', does: 'where either is' },
  { id: 'subtract', title: 'but not', does: 'where this term is not' },
  { id: 'min', title: 'darker of', does: 'the smaller of the two' },
  { id: 'max', title: 'lighter of', does: 'the larger of the two' },
  { id: 'difference', title: 'difference', does: 'where they differ' }
];
