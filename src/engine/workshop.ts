import { LRUCache } from 'lru-cache';
import {
  commonSteps,
  DocumentError,
  findStep,
  readLook,
  stepsTo,
  type PictureSource,
  type Place,
  type SourceStep
} from '../core/document';
import { fileFormats, type FileFormat } from '../core/files';
import { packBundle, unpackBundle } from '../core/files/bundle';
import { contentHash } from '../core/files/content-hash';
import { writeCube } from '../core/files/cube';
import { openFrame } from '../core/files/open-frame';
import { readOwnProfile, ready } from '../core/files/own-profile';
import { MOST_PROFILE_BYTES } from '../core/files/lcms';
import { readTable } from '../core/files/table';
import { bake } from '../core/lut/bake';
import { gridPicture } from '../core/lut/grid';
import { separations } from '../core/measure/separation';
import { giveRoomBack } from '../core/kernels/arena';
import { fillPresent } from '../core/colour';
import { isOwn, type OutputSpace } from '../core/colour/own';
import { meanAround, samplesUnder, type Part } from '../core/path/analysis';
import { measurePicture, type Measured, type Range } from '../core/path/measure';
import { headOf } from '../core/heads';
import { differentSizes, measureDifference, withDifference, type Differing } from '../core/path/differing';
import { Planner } from '../core/path/planner';
import { Unsettled, Unsolved, type SolveAsk } from '../core/path/solver';
import { opOf } from '../core/ops';
import { encodingAt, planSize, type Plan } from '../core/path/plan';
import { withEvaluated } from '../core/path/evaluate';
import { areGreys, keptAsItIs, quantize } from '../core/path/quantize';
import { hatchOutside, outsideOf, type WrittenAs } from '../core/path/outside';
import { settledFrame, unsettled } from '../core/path/settled';
import { madeSmaller } from '../core/path/smaller';
import { measureShift } from '../core/path/shift';
import { clippedCounts } from '../core/measure/histogram';
import { noiseOf } from '../core/measure/noise';
import { countedPlane, lowerHalvesOf, noiseOfPlane, planeStatistics } from '../core/measure/statistics';
import { takenOut } from '../core/measure/taken-out';
import { middleOf } from '../core/ops/averaging';
import { isGrey, ownLift, skiesOf, type Lift } from '../core/path/lift';
import { withScreenPixels, type View } from '../core/path/view';
import type { Frame } from '../core/raster/frame';
import { copied, type Raster, type Rect } from '../core/raster/raster';
import { resample } from '../core/raster/resample';
import { bytesOf, readable } from './bytes-of';
import {
  REMEMBERED_PARTS,
  type Answer,
  type Drawn,
  type FromWorker,
  type Job,
  type JobKind,
  type Jobs,
  type PictureAt,
  type SharedPart,
  type ToWorker
} from './jobs';
import { Stages } from './stages';

const THUMBNAIL_QUALITY = 82;
const MOST_MEASURED = 16;
/** Milliseconds. */
const TIDIED_AFTER = 2000;
/** Pictures of tables are written of this level: 512 × 512 pixels. */
const GRID = 8;

type Progress = (part: number) => void;
type Worker = { [K in JobKind]: (ask: Jobs[K]['ask'], progress: Progress) => Answer | Promise<Answer> };

/** What goes on inside a worker, whatever host it runs in: it holds frames and answers jobs one by one. */
export class Workshop {
  private readonly frames = new Map<string, Frame>();
  private planner: Planner;
  private readonly parts = new Map<number, SharedPart>();
  private stages: Stages;
  private dropped: Int32Array | null = null;
  private giveSign = (): void => undefined;
  /** The job whose pixels are being computed, which no other interrupts. */
  private number = 0;
  /** Results over whole pictures, from all workers. */
  private readonly settled = new Map<string, Frame>();
  private tidying = false;
  private readonly kept = new LRUCache<string, Measured>({ max: MOST_MEASURED });

  /** @param drawn makes of RGBA, which it is only lent, what is drawn fastest where this workshop's answers go */
  constructor(
    private readonly drawn: (pixels: Uint8ClampedArray<ArrayBuffer>, size: Rect) => Drawn | Promise<Drawn> = (
      pixels
    ) => pixels.slice()
  ) {
    this.planner = this.newPlanner();
    this.stages = this.newStages(1);
  }

  /** Takes one message; an answer goes to `reply` with the buffers that may be handed over. */
  async take(
    message: ToWorker,
    reply: (message: FromWorker, transfer: Transferred[]) => void
  ): Promise<void> {
    if (message.type === 'frame') this.frames.set(message.id, message.frame);
    else if (message.type === 'share') {
      this.stages = this.newStages(message.part);
      this.dropped = message.dropped;
      const { signs, place } = message;
      this.giveSign = () => void Atomics.add(signs, place, 1);
    } else if (message.type === 'forget') {
      this.frames.delete(message.id);
      this.planner = this.newPlanner();
      this.stages.clear();
    } else if (message.type === 'together') {
      for (const one of message.messages) await this.take(one, reply);
    } else if (message.type === 'settled') {
      if (message.frame) {
        this.settled.set(message.key, message.frame);
        this.stages.clearTiles();
      } else this.settled.delete(message.key);
    } else if (message.type === 'solution') {
      this.planner.learn(message.key, message.solution);
    } else if (message.type === 'part') this.remember(message.part, message.value);
    else if (message.type === 'steps') {
      const known = this.parts.get(message.like) as readonly SourceStep[];
      const steps = message.steps.map((step) => (typeof step === 'number' ? known[step] : step));
      this.remember(message.part, steps);
    } else {
      const { number, job, parts = {} } = message;
      const space = spaceIn(job);
      try {
        // Others may be done meanwhile: what is computed can't wait for it.
        if (isOwn(space)) await ready(space);
        this.number = number;
        this.goOn();
        const work = this.work[job.kind] as (ask: unknown, progress: Progress) => Answer | Promise<Answer>;
        const told = Object.entries(parts).map(([name, part]) => [name, this.parts.get(part)]);
        const ask = { ...job.ask, ...Object.fromEntries(told) } as unknown;
        const answer = await work(ask, (part) => reply({ type: 'progress', number, part }, []));
        reply({ type: 'answer', number, answer }, transferable(answer));
      } catch (error) {
        if (error instanceof Unsolved) return reply({ type: 'unsolved', number, ask: error.ask }, []);
        if (error instanceof Unsettled) return reply({ type: 'unsettled', number, ask: error.ask }, []);
        const { name, message } = error as Error;
        reply({ type: 'failure', number, error: { name, message } }, []);
      } finally {
        this.tidySoon();
      }
    }
  }

  private remember(part: number, value: SharedPart): void {
    this.parts.set(part, value);
    for (const oldest of this.parts.keys()) {
      if (this.parts.size <= REMEMBERED_PARTS) break;
      this.parts.delete(oldest);
    }
  }

  /** Room that one work needed and what follows does not is given back. */
  private tidySoon(): void {
    if (this.tidying) return;
    this.tidying = true;
    const timer: unknown = setTimeout(() => {
      this.tidying = false;
      if (giveRoomBack()) this.tidySoon();
    }, TIDIED_AFTER);
    // Where there is nothing else to do the process may end.
    if (typeof timer === 'object') (timer as { unref(): void }).unref();
  }

  private readonly work: Worker = {
    open: async ({ file, choices }) => openFrame(await bytesOf(file), choices),
    preview: async ({ file, size }) => {
      const { frame } = await openFrame(await bytesOf(file));
      const plan = new Planner(() => frame).plan({ head: headOf('preview'), steps: [], pins: [] });
      const jpeg = await smallPicture(plan, size, (level, rect, use) =>
        withEvaluated(plan, level, rect, null, use)
      );
      return { hash: await readable(() => contentHash(file)), encoding: frame.encoding, jpeg };
    },
    table: async ({ file }) => ({ table: await readTable(await bytesOf(file)) }),
    look: ({ text }) => ({ look: readLook(text) }),
    profile: async ({ file, name }) => ({
      // No more of it than it takes to say that it is too much.
      profile: await readOwnProfile(await bytesOf(file.slice(0, MOST_PROFILE_BYTES + 1)), name)
    }),
    bake: ({ baking, ...source }) => ({ baked: bake(this.plan(source), baking) }),
    writeTable: async (ask) => ({
      bytes:
        ask.as === 'cube'
          ? writeCube(ask.table)
          : await formatOf('png').write(gridPicture(ask.table, GRID), {})
    }),
    name: async ({ file }) => ({ hash: await readable(() => contentHash(file)) }),
    unpack: ({ file, most }) => unpackBundle(file, most),
    pack: (bundle) => packBundle(bundle),
    tile: async (ask) => {
      const { level, rect } = ask;
      const begun = performance.now();
      const plan = this.plan(ask);
      const draw = (raster: Raster, seen: View, lift: Lift | null = null): Drawn | Promise<Drawn> =>
        withScreenPixels(raster, seen, (pixels) => this.drawn(pixels, rect), lift);
      const hold = holdOf(ask);
      if (!ask.other) {
        const { view, lift } = ask;
        const drawn = this.evaluated(plan, level, rect, hold, (raster) => draw(raster, view, lift));
        const waits = level > 0 ? unsettled(plan, this.settled) : null;
        return { pixels: await drawn, waits, took: performance.now() - begun };
      }
      const { view, other } = ask;
      const minus = this.beside(plan, other, level, rect);
      const drawn = this.evaluated(plan, level, rect, hold, (raster) =>
        withDifference(raster, minus.raster, view, (difference) => draw(difference, 'colour'))
      );
      const waits = level > 0 ? (unsettled(plan, this.settled) ?? unsettled(minus.plan, this.settled)) : null;
      return { pixels: await drawn, waits, took: performance.now() - begun };
    },
    read: ({ places, spots, ...source }) => ({
      values: places.map((at) => {
        const plan = this.plan({ ...source, at });
        return spots.map(({ x, y, size }) => meanAround(plan, { x, y }, size));
      })
    }),
    measure: ({ channels, places, part, range, ...source }) => {
      const plans = places.map((at) => this.plan({ ...source, at }));
      const hold = Math.min(...plans.map(({ steps }) => steps.length));
      return { measured: plans.map((plan) => this.measured(plan, channels, hold, part, range)) };
    },
    clipped: ({ rect, channels, ...source }) =>
      this.evaluated(this.plan(source), 0, rect, 0, ({ planes, encoding, width, height }) => {
        const n = width * height;
        const values = channels.map(() => new Float32Array(n));
        fillPresent(channels, planes, encoding, values, n);
        return { counts: values.map(clippedCounts) };
      }),
    takenOut: ({ other, rect, channels, ...source }) => {
      const valuesOf = (at: PictureAt): Float32Array[] =>
        this.evaluated(this.plan(at), 0, rect, 0, ({ planes, encoding, width, height }) => {
          const values = channels.map(() => new Float32Array(width * height));
          fillPresent(channels, planes, encoding, values, width * height);
          return values;
        });
      const [before, after] = [valuesOf(other), valuesOf(source)];
      return { taken: before.map((plane, c) => takenOut(plane, after[c], rect.width, rect.height)) };
    },
    counted: ({ head, plane, part }) => ({
      counted: countedPlane(this.frameOf(head.frames[0].hash), plane, part)
    }),
    lower: ({ head, plane, part, parts }) => ({
      lower: lowerHalvesOf(this.frameOf(head.frames[0].hash), plane, parts, part)
    }),
    noise: ({ head, plane }) => ({ noise: noiseOfPlane(this.frameOf(head.frames[0].hash), plane) }),
    statistics: ({ head, plane, parts, lower, noise }) => ({
      statistics: planeStatistics(this.frameOf(head.frames[0].hash), plane, parts, lower, noise)
    }),
    head: ({ head, pins }) => {
      const plan = this.plan({ head, steps: [], pins });
      const { width, height } = plan.head;
      const middle = middleOf({ width, height });
      const noise = this.evaluated(plan, 0, middle, 0, ({ planes }) =>
        planes.map((plane) => noiseOf(plane, middle.width, middle.height))
      );
      return { solution: plan.head.solution, noise };
    },
    skies: (source) => {
      const plan = this.plan(source);
      return { skies: skiesOf(plan) };
    },
    grey: (source) => ({ grey: isGrey(this.plan(source)) }),
    differ: ({ other, rect, by, ...source }) => {
      const plan = this.plan(source);
      const { raster } = this.beside(plan, other, 0, rect);
      const measure = (one: Raster): Differing => measureDifference(one, raster, by);
      return { differing: this.evaluated(plan, 0, rect, 0, measure) };
    },
    solved: ({ step, ...source }) => {
      if (!findStep(source.steps, step)?.enabled) return { solved: null };
      const { op, coefficients } = this.plan({ ...source, at: { after: step } }).steps.at(-1)!;
      return { solved: op.solved?.(coefficients) ?? null };
    },
    settle: ({ samples, rect, common, beyond, ...source }) => {
      const plan = this.planner.plan(source, { common, beyond });
      this.evaluated(plan, 0, rect, 0, (raster) =>
        quantize(raster, samples, common.width, keptAsItIs(raster))
      );
      return null;
    },
    pyramid: ({ samples, common, beyond, ...source }) => ({
      frame: settledFrame(this.planner.plan(source, { common, beyond }), samples)
    }),
    solve: ({ stages, ...ask }, onProgress) => ({ solution: this.planner.solve(ask, onProgress, stages) }),
    stage: ({ stage, before, part, found, ...ask }) => ({
      made: found ? togetherFor(ask, stage, found) : this.planner.solvePart(ask, stage, part, before)
    }),
    rank: ({ want, avoid, ...source }) => {
      const plan = this.plan(source);
      return {
        candidates: separations(samplesUnder(plan, want), samplesUnder(plan, avoid), encodingAt(plan))
      };
    },
    shift: ({ other, ...source }) => ({ shift: measureShift(this.plan(source), this.plan(other)) }),
    render: ({ rect, samples, width, quantizing, ...source }) => {
      const { alpha } = this.evaluated(this.plan(source), 0, rect, 0, (raster) => {
        quantize(raster, samples, width, quantizing);
        return { alpha: raster.alpha !== null };
      });
      const grey = Boolean(quantizing.grey) || areGreys(samples, alpha ? 4 : 3, rect, width);
      return { grey };
    },
    encode: async ({ format, smaller, space, quality, notes, ...image }, onProgress) => {
      const { width, height } = smaller ?? image;
      const samples = smaller ? madeSmaller(image, smaller) : image.samples;
      const finished = { ...image, width, height, samples };
      return formatOf(format).write(finished, { quality, space, notes, onProgress });
    },
    part: ({ format, index, ...image }) => formatOf(format).parts!.part(image, index),
    outside: ({ rect, quantizing, ...source }) => ({
      outside: this.evaluated(this.plan(source), 0, rect, 0, (raster) => outsideOf(raster, quantizing))
    }),
    thumbnail: ({ size, hatched, ...source }) => {
      const plan = this.plan(source);
      return smallPicture(
        plan,
        size,
        (level, rect, use) => this.evaluated(plan, level, rect, 0, use),
        hatched
      );
    }
  };

  /** @throws DOMException AbortError where the job at hand was taken back */
  private goOn(): void {
    this.giveSign();
    const { dropped, number } = this;
    if (dropped !== null && Atomics.load(dropped, number % dropped.length) === number)
      throw new DOMException('The work was taken back.', 'AbortError');
  }

  private newStages(part: number): Stages {
    return new Stages(part, () => this.goOn(), this.settled);
  }

  private newPlanner(): Planner {
    return new Planner(this.frameOf, () => this.goOn(), this.settled);
  }

  private readonly frameOf = (hash: string): Frame => {
    const frame = this.frames.get(hash);
    if (!frame) throw new Error(`The frame ${hash} is not registered with this worker.`);
    return frame;
  };

  /** What a step that is being edited takes in stays the same: it is measured once. */
  private measured(
    plan: Plan,
    channels: readonly string[],
    hold: number,
    part?: Part,
    range?: Range
  ): Measured {
    const waits = unsettled(plan, this.settled)?.key;
    const key = JSON.stringify([plan.keyAfter(plan.steps.length), waits, channels, part, range]);
    const known = this.kept.get(key);
    if (known) return known;
    const measured = measurePicture(
      plan,
      channels,
      (level) => (rect, use) => this.evaluated(plan, level, rect, hold, use),
      part,
      range
    );
    this.kept.set(key, measured);
    return measured;
  }

  private plan({ at = 'end', ...source }: PictureAt): Plan {
    return this.planner.plan({ ...source, steps: leadingTo(source, at) });
  }

  /** Another picture over the same rectangle; it stays as it is while the first is worked on. @throws DocumentError */
  private beside(
    plan: Plan,
    source: PictureAt,
    level: number,
    rect: Rect
  ): { readonly plan: Plan; readonly raster: Raster } {
    const other = this.plan(source);
    const problem = differentSizes(planSize(plan, 0), planSize(other, 0));
    if (problem) throw new DocumentError(problem);
    return { plan: other, raster: this.evaluated(other, level, rect, other.steps.length, copied) };
  }

  private evaluated<T>(plan: Plan, level: number, rect: Rect, hold: number, use: (raster: Raster) => T): T {
    return this.stages.evaluated(plan, level, rect, hold, use);
  }
}

/** What all parts of a stage come to. */
const togetherFor = ({ step }: SolveAsk, stage: number, found: readonly unknown[]): unknown => {
  const { stages, needs } = opOf(step.op);
  return stages![stage].together(needs!(step.params), found);
};

/** The space that the pixels of a job are to be in. */
function spaceIn({ kind, ask }: Job): OutputSpace | undefined {
  if (kind === 'render' || kind === 'outside') return ask.quantizing.space;
  if (kind === 'encode') return ask.smaller?.quantizing.space;
  return kind === 'thumbnail' ? ask.hatched?.space : undefined;
}

/** @throws Error where the path has no such place */
function leadingTo({ steps }: PictureSource, at: Place): readonly SourceStep[] {
  const way = stepsTo(steps, at);
  if (!way) throw new Error('The path has no such place.');
  return way;
}

/** How many of the first steps stay as they are while the step that is held is worked on. */
function holdOf({ at = 'end', hold, ...source }: Jobs['tile']['ask']): number {
  const before = hold === null ? null : stepsTo(source.steps, { before: hold });
  return before ? commonSteps(leadingTo(source, at), before) : 0;
}

const formatOf = (id: FileFormat['id']): FileFormat => fileFormats.find((f) => f.id === id)!;

type EvaluatedAt = (level: number, rect: Rect, use: (raster: Raster) => ScreenPixels) => ScreenPixels;
type ScreenPixels = Uint8ClampedArray<ArrayBuffer>;

/** A JPEG of the whole picture, `size` pixels along its longer side. */
function smallPicture(
  plan: Plan,
  size: number,
  evaluated: EvaluatedAt,
  hatched?: WrittenAs
): Promise<Uint8Array> {
  const sizes = Array.from({ length: plan.head.levels }, (_, level) => planSize(plan, level));
  const level = Math.max(
    0,
    sizes.findLastIndex((l) => Math.max(l.width, l.height) >= size)
  );
  const { width, height } = sizes[level];
  const lift = ownLift(plan);
  const pixels = evaluated(level, { x: 0, y: 0, width, height }, (raster) => {
    const drawn = withScreenPixels(raster, 'colour', (lent) => lent.slice(), lift);
    if (hatched) hatchOutside(raster, hatched, drawn);
    return drawn;
  });
  const scale = Math.min(1, size / Math.max(width, height));
  const toWidth = Math.max(1, Math.round(width * scale));
  const toHeight = Math.max(1, Math.round(height * scale));
  const samples = resample(new Uint8Array(pixels.buffer), width, height, 4, toWidth, toHeight, {
    alpha: true
  });
  return formatOf('jpeg').write(
    { width: toWidth, height: toHeight, alpha: true, samples },
    { quality: THUMBNAIL_QUALITY }
  );
}

type Transferred = ArrayBuffer | ImageBitmap;

function transferable(answer: Answer): Transferred[] {
  if (answer instanceof Uint8Array) return answer.buffer instanceof ArrayBuffer ? [answer.buffer] : [];
  if (!answer || answer instanceof Blob) return [];
  if ('bytes' in answer) return [answer.bytes.buffer as ArrayBuffer];
  if (!('pixels' in answer)) return [];
  return [answer.pixels instanceof Uint8ClampedArray ? answer.pixels.buffer : answer.pixels];
}
