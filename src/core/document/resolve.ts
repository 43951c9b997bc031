import { opOf } from '../ops';
import { sharedSamples } from '../raster/frame';
import { contentKey } from './content-key';
import type { KrombaDocument, Picture } from './document';
import { referenceKey, type Mask, type Reference, type Stroke } from './mask';
import { pinKey, pinsOf, pinsRead } from './pins';
import { stepsThrough, usedByMask, usedByStep, type Used } from './references';
import { stepKey, type Beside, type SourcePicture, type SourceStep, type Step } from './step';

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

const keyedSteps = new WeakMap<Step, SourceStep>();

/** A step that refers to nothing, with the key of its own content. */
function keyed(step: Step): SourceStep {
  let known = keyedSteps.get(step);
  if (!known) keyedSteps.set(step, (known = { ...step, key: stepKey(step) }));
  return known;
}

/** Puts what steps refer to beside them, so that they can be computed without their document. */
export class Resolver {
  private readonly known = new WeakMap<Step, SourceStep>();
  private readonly pictures = new Map<string, SourcePicture>();

  /** @param hashes content hash of each frame's file, by frame id */
  constructor(
    private readonly document: KrombaDocument,
    private readonly hashes: Readonly<Record<string, string>>
  ) {}

  /** The step with its key, and with what it refers to beside it. */
  step(step: Step): SourceStep {
    const used = usedByStep(step).map((found) => found.used);
    if (used.length === 0 && !hasPaint(step.where) && !opOf(step.op).mapMasks) return keyed(step);
    let known = this.known.get(step);
    if (!known) this.known.set(step, (known = this.resolved(step, used)));
    return known;
  }

  steps = (steps: readonly Step[]): readonly SourceStep[] => steps.map((step) => this.step(step));

  private resolved(step: Step, used: readonly Used[]): SourceStep {
    const pictures: Record<string, SourcePicture> = {};
    const masks: Record<string, Mask> = {};
    const keys: string[] = [];
    const add = (what: Used): void => {
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
    const beside: Beside = { pictures, masks };
    const where = step.where && packMask(step.where);
    const { mapMasks } = opOf(step.op);
    const told = mapMasks?.(step.params, (mask) => packMask(mask).key as unknown as Mask) ?? step.params;
    const params = (mapMasks?.(step.params, (mask) => packMask(mask).mask) ?? step.params) as object;
    const own = JSON.stringify([step.op, told, step.on, step.blend]);
    const key = contentKey([own, where?.key ?? '', ...keys].join('~'));
    const maskKey = where ? contentKey([where.key, ...keys].join('~')) : undefined;
    return { ...step, params, where: where?.mask ?? null, key, maskKey, beside };
  }

  /** The picture that a reference means; undefined where there is none, or its head is no frame. */
  picture(reference: Reference): SourcePicture | undefined {
    const name = referenceKey(reference);
    const known = this.pictures.get(name);
    if (known) return known;
    const picture = this.document.pictures.find((p) => p.id === reference.picture);
    const count = picture && stepsThrough(picture, reference.after);
    if (!picture || count === null || count === undefined || picture.head.kind !== 'frame') return undefined;
    const steps = this.steps(picture.steps.slice(0, count).filter((s) => s.enabled));
    const pins = pinsRead(steps, pinsOf(this.document, picture.id));
    const source = { name: picture.name, frame: this.hashes[picture.head.frame], steps, pins };
    this.pictures.set(name, source);
    return source;
  }

  /** Content hashes of all frames that a picture needs, its own first. */
  framesOf(picture: Picture): string[] {
    const found = new Set<string>();
    type Visited = Pick<SourcePicture, 'frame' | 'steps'>;
    const seen = new Set<Visited>();
    const visit = (source: Visited): void => {
      if (seen.has(source)) return;
      seen.add(source);
      const { frame, steps } = source;
      found.add(frame);
      for (const step of steps) Object.values(step.beside?.pictures ?? {}).forEach(visit);
    };
    if (picture.head.kind === 'frame') {
      found.add(this.hashes[picture.head.frame]);
      visit({ frame: this.hashes[picture.head.frame], steps: this.steps(picture.steps) });
    }
    return [...found];
  }
}

/** What a picture's samples depend on, as a key of fixed length. */
export const sourceKey = ({ frame, steps, pins }: Omit<SourcePicture, 'name'>): string =>
  contentKey([frame, pinKey(steps, pins), ...steps.map(stepKey)].join('|'));
