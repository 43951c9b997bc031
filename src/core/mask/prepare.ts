import { makeCurve, type Curve, type CurvePoint } from '../curve';
import type { Reference } from '../document/ids';
import type { Combine, Mask, MaskTerm } from '../document/mask';
import { gaussianReach } from '../spatial/gaussian';
import { growReach } from './grow';
import type { Stretches } from './ground';
import { sourceKind, type MaskSource, type Preparing, type SourceKind } from './sources';

interface PreparedTerm {
  readonly source: SourceKind;
  readonly prepared: unknown;
  /** How it sees linear pictures; null where it sees them as they are. */
  readonly stretches: Stretches | null;
  readonly curve: Curve | null;
  readonly invert: boolean;
  readonly combine: Combine;
  readonly amount: number;
}

/** A mask ready to be computed anywhere and at any level. */
export interface PreparedMask {
  readonly terms: readonly PreparedTerm[];
  /** Full-size pixels. */
  readonly grow: number;
  readonly blur: number;
  readonly invert: boolean;
  /** A term of it, or of a mask that it is made of, sees pictures stretched. */
  readonly stretched: boolean;
  /** Channels of what comes into the step, as it is, that it is made of. */
  readonly channels: ReadonlySet<string>;
  /** Samples around one that its value depends on, in a level of `scale`. */
  reach(scale: number): number;
}

/** The points of a term's curve: its own, or its source's usual ones. */
export const curvePoints = ({ source, curve }: Pick<MaskTerm, 'source' | 'curve'>): readonly CurvePoint[] =>
  curve ??
  sourceKind(source.kind).curve ?? [
    [0, 0],
    [1, 1]
  ];

/** A curve over hue goes on round: its points stand a turn below and a turn above as well. */
function wrapped(points: readonly CurvePoint[]): CurvePoint[] {
  const inside = points.filter(([x]) => x >= 0 && x < 1);
  return [-1, 0, 1].flatMap((turn) => inside.map(([x, y]): CurvePoint => [x + turn, y]));
}

function curveOf(term: MaskTerm): Curve | null {
  const points = curvePoints(term);
  const straight = points.length === 2 && points.every(([x, y], i) => x === i && y === i);
  if (straight) return null;
  return makeCurve(sourceKind(term.source.kind).wraps?.(term.source) ? wrapped(points) : points);
}

function stretchesOf({ source, stretched }: MaskTerm, given: Asking): Stretches | null {
  return stretched && sourceKind(source.kind).sees ? given.stretches(pictureOf(source)) : null;
}

/** The picture that a source is made of, where it is not what comes into the step. */
function pictureOf(source: MaskSource): Reference | null {
  const used = sourceKind(source.kind).uses?.(source)?.used;
  return used && 'picture' in used ? used : null;
}

/** What a mask may ask while it is made ready. */
export interface Asking extends Omit<Preparing, 'solved'> {
  /** What an op has found of what comes into the step, or of another picture. */
  solved(by: { readonly op: string; readonly params: object }, of: Reference | null): unknown;
}

/** @throws RangeError for a mask of masks without end */
export function prepareMask(mask: Mask, given: Asking): PreparedMask {
  const terms = mask.terms.map((term): PreparedTerm => {
    const source = sourceKind(term.source.kind);
    const { invert, combine, amount } = term;
    const by = source.solvedBy?.(term.source);
    const solved = by ? given.solved(by, pictureOf(term.source)) : null;
    return {
      source,
      prepared: source.prepare(term.source, { ...given, solved }),
      stretches: stretchesOf(term, given),
      curve: curveOf(term),
      invert,
      combine,
      amount
    };
  });
  const within = terms.flatMap(({ source, prepared }) => source.within?.(prepared) ?? []);
  const { grow, blur, invert } = mask;
  const reaches = new Map<number, number>();
  return {
    terms,
    grow,
    blur,
    invert,
    stretched: terms.some(({ stretches }) => stretches) || within.some((m) => m.stretched),
    channels: new Set([
      ...terms.flatMap((term) => (term.stretches ? [] : (term.source.channels?.(term.prepared) ?? []))),
      ...within.flatMap((m) => [...m.channels])
    ]),
    reach(scale) {
      let reach = reaches.get(scale);
      if (reach === undefined) {
        const below = Math.max(
          0,
          ...within.map((m) => m.reach(scale)),
          ...terms.map(({ source, prepared }) => source.reach?.(prepared, scale) ?? 0)
        );
        reaches.set(scale, (reach = below + growReach(grow * scale) + gaussianReach(blur * scale)));
      }
      return reach;
    }
  };
}
