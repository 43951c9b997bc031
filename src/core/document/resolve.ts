import type { Table } from '../lut/table';
import { opOf } from '../ops';
import { sharedSamples } from '../raster/frame';
import { contentKey } from './content-key';
import { frameKey } from './frame-key';
import type { KrombaDocument, Picture } from './document';
import { referenceKey, type Mask, type Reference, type Stroke } from './mask';
import { DocumentError } from './problem';
import { pinKey, pinsOf, pinsRead } from './pins';
import { headKind, sourceHead, type SourceHead } from '../heads';
import { placeOf, stepsTo } from './places';
import { usedByMask, usedByStep, type Used } from './references';
import {
  stepKey,
  type Beside,
  type PictureSource,
  type SourcePicture,
  type SourceStep,
  type Step
} from './step';

/** Fewer numbers than this are copied to a worker faster than they are shared. */
const SHARED_FROM = 4096;

/** A stroke with its points one after another: x, y, pressure; in shared memory where they are many. */
type PackedStroke = Omit<Stroke, 'points'> & { readonly points: Float32Array; readonly number: number };

const packed = new WeakMap<Stroke, PackedStroke>();
let strokes = 0;

/** Strokes are never changed, so each is packed once, and its number stands for its content. */
function pack(stroke: Stroke): PackedStroke {
  let known = packed.get(stroke);
  if (!known) {
    const length = 3 * stroke.points.length;
    const shared = length > SHARED_FROM;
    const points = shared ? (sharedSamples('f32', length) as Float32Array) : new Float32Array(length);
    stroke.points.forEach((point, i) => points.set(point, 3 * i));
    packed.set(stroke, (known = { ...stroke, points, number: ++strokes }));
  }
  return known;
}

interface Packed {
  readonly mask: Mask;
  readonly key: string;
}
const packedMasks = new WeakMap<Mask, Packed>();

function packMask(mask: Mask): Packed {
  let known = packedMasks.get(mask);
  if (!known) {
    const numbers: number[] = [];
    const terms = mask.terms.map((term) => {
      if (term.source.kind !== 'paint') return term;
      const list = term.source.strokes.map(pack);
      numbers.push(...list.map((s) => s.number), -1);
      return { ...term, source: { ...term.source, strokes: list } };
    });
    const told = mask.terms.map((t) => (t.source.kind === 'paint' ? { ...t, source: 'paint' } : t));
    known = {
      mask: { ...mask, terms } as unknown as Mask,
      key: contentKey(JSON.stringify([{ ...mask, terms: told }, numbers]))
    };
    packedMasks.set(mask, known);
  }
  return known;
}

const hasPaint = (mask: Mask | null): boolean => mask?.terms.some((t) => t.source.kind === 'paint') ?? false;

/** Steps that refer to nothing: what they are resolved to is the same in every document. */
const alone = new WeakMap<Step, SourceStep>();

/** Puts what steps refer to beside them, so that they can be computed without their document. */
export class Resolver {
  private readonly known = new WeakMap<Step, SourceStep>();
  private readonly lists = new WeakMap<readonly Step[], readonly SourceStep[]>();
  private readonly pictures = new Map<string, SourcePicture>();
  private readonly heads = new Map<string, SourceHead>();

  /**
   * @param hashes content hash of each frame's and table's file, by id
   * @param opened the tables that are open, by id
   */
  constructor(
    private readonly document: KrombaDocument,
    private readonly hashes: Readonly<Record<string, string>>,
    private readonly opened: ReadonlyMap<string, Table> = new Map()
  ) {}

  /** The step with its key, and with what it refers to beside it. */
  step(step: Step): SourceStep {
    const known = alone.get(step) ?? this.known.get(step);
    if (known) return known;
    const op = opOf(step.op);
    const used = usedByStep(step).map((found) => found.used);
    const plain = used.length === 0 && !hasPaint(step.where) && !op.mapMasks && !op.inside;
    const made = plain ? { ...step, key: stepKey(step) } : this.resolved(step, used);
    (used.length === 0 ? alone : this.known).set(step, made);
    return made;
  }

  /** The same list always gives the same one, so that it goes to a worker once. */
  steps(steps: readonly Step[]): readonly SourceStep[] {
    let known = this.lists.get(steps);
    if (!known) this.lists.set(steps, (known = steps.map((step) => this.step(step))));
    return known;
  }

  private resolved(step: Step, used: readonly Used[]): SourceStep {
    const pictures: Record<string, SourcePicture> = {};
    const masks: Record<string, Mask> = {};
    const tables: Record<string, Table> = {};
    const keys: string[] = [];
    const add = (what: Used): void => {
      if ('table' in what) {
        const table = this.opened.get(what.table);
        keys.push(table ? this.hashes[what.table] : 'not open');
        if (table) tables[what.table] = table;
        return;
      }
      if ('mask' in what) {
        if (masks[what.mask]) return;
        const found = this.document.masks.find((m) => m.id === what.mask);
        if (!found) return;
        const { mask, key } = packMask(found.mask);
        masks[what.mask] = mask;
        keys.push(key);
        usedByMask(found.mask).forEach((f) => add(f.used));
        return;
      }
      const name = referenceKey(what);
      if (pictures[name]) return;
      const picture = this.picture(what);
      if (!picture) return;
      pictures[name] = picture;
      keys.push(sourceKey(picture));
    };
    used.forEach(add);
    const beside: Beside = { pictures, masks, tables };
    const where = step.where && packMask(step.where);
    const { mapMasks, inside, withInside } = opOf(step.op);
    if (inside && withInside) {
      const steps = this.steps(inside(step.params));
      const content = steps.filter(({ enabled }) => enabled).map(stepKey);
      const own = JSON.stringify([step.op, content, step.on, step.blend]);
      return this.finished(step, withInside(step.params, steps) as object, own, where, keys, beside);
    }
    const told = mapMasks?.(step.params, (mask) => packMask(mask).key as unknown as Mask) ?? step.params;
    const params = (mapMasks?.(step.params, (mask) => packMask(mask).mask) ?? step.params) as object;
    const own = JSON.stringify([step.op, told, step.on, step.blend]);
    return this.finished(step, params, own, where, keys, beside);
  }

  /** @param own what of the step itself counts @param keys of what it refers to */
  private finished(
    step: Step,
    params: object,
    own: string,
    where: Packed | null,
    keys: readonly string[],
    beside: Beside
  ): SourceStep {
    const key = contentKey([own, where?.key ?? '', ...keys].join('~'));
    const maskKey = where ? contentKey([where.key, ...keys].join('~')) : undefined;
    return { ...step, params, where: where?.mask ?? null, key, maskKey, beside };
  }

  /** The head of a picture: always the very same. */
  head({ id, head }: Pick<Picture, 'id' | 'head'>): SourceHead {
    let known = this.heads.get(id);
    if (!known) {
      const kind = headKind(head.kind);
      const frames = kind.frames(head).map(({ id: frame }) => {
        const found = this.document.frames.find((f) => f.id === frame);
        return { hash: frameKey(this.hashes[frame], found), encoding: found?.encoding ?? 'coded' };
      });
      const pictures = kind.uses(head).map((reference) => {
        const picture = this.picture(reference);
        if (!picture) throw new DocumentError(`There is no picture “${reference.picture}” to be had here.`);
        return { picture, key: sourceKey(picture) };
      });
      this.heads.set(id, (known = sourceHead(head, frames, pictures)));
    }
    return known;
  }

  /** The picture that a reference means; undefined where there is none. */
  picture(reference: Reference): SourcePicture | undefined {
    const name = referenceKey(reference);
    const known = this.pictures.get(name);
    if (known) return known;
    const picture = this.document.pictures.find((p) => p.id === reference.picture);
    const way = picture && stepsTo(picture.steps, placeOf(reference.after));
    if (!picture || !way) return undefined;
    const steps = this.steps(way);
    const pins = pinsRead(steps, pinsOf(this.document, picture.id));
    const source = { name: picture.name, head: this.head(picture), steps, pins };
    this.pictures.set(name, source);
    return source;
  }

  /** A picture with all its steps, those that are off as well. */
  whole(picture: Picture): PictureSource {
    const steps = this.steps(picture.steps);
    return { head: this.head(picture), steps, pins: pinsRead(steps, pinsOf(this.document, picture.id)) };
  }

  /** Keys of all frames that a picture needs, those of its head first. */
  framesOf = (picture: Picture): string[] => framesOf([this.whole(picture)]);
}

/** Keys of all frames that some pictures need, those of their heads first. */
export function framesOf(sources: readonly Pick<PictureSource, 'head' | 'steps'>[]): string[] {
  const found = new Set<string>();
  const seen = new Set<unknown>();
  const inSteps = (steps: readonly SourceStep[]): void => {
    for (const step of steps) {
      Object.values(step.beside?.pictures ?? {}).forEach(visit);
      inSteps(opOf(step.op).inside?.(step.params) ?? []);
    }
  };
  const visit = (source: Pick<PictureSource, 'head' | 'steps'>): void => {
    if (seen.has(source)) return;
    seen.add(source);
    source.head.frames.forEach(({ hash }) => found.add(hash));
    source.head.pictures.forEach(visit);
    inSteps(source.steps);
  };
  sources.forEach(visit);
  return [...found];
}

/** What a picture's samples depend on, as a key of fixed length. */
export const sourceKey = ({ head, steps, pins }: PictureSource): string =>
  contentKey([head.key, pinKey(steps, pins), ...steps.map(stepKey)].join('|'));
