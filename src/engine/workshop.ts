import { pinKey, stepKey, type SourceStep } from '../core/document';
import { fileFormats } from '../core/files';
import { packBundle, unpackBundle } from '../core/files/bundle';
import { contentHash } from '../core/files/content-hash';
import { finishedChannels } from '../core/files/image';
import { openFrame } from '../core/files/open-frame';
import { separations } from '../core/measure/separation';
import { fillChannels } from '../core/colour';
import { meanAround, samplesUnder, type Part } from '../core/path/analysis';
import { measurePicture, type Measured } from '../core/path/measure';
import { Planner, planSize, type Plan } from '../core/path/plan';
import { withEvaluated } from '../core/path/evaluate';
import { quantize } from '../core/path/quantize';
import { measureShift } from '../core/path/shift';
import { screenPixels, withScreenPixels } from '../core/path/view';
import type { Frame } from '../core/raster/frame';
import type { Raster, Rect } from '../core/raster/raster';
import { resample } from '../core/raster/resample';
import { bytesOf, readable } from './bytes-of';
import {
  REMEMBERED_PATHS,
  type Answer,
  type Drawn,
  type FromWorker,
  type JobKind,
  type Jobs,
  type PictureSource,
  type ToWorker
} from './jobs';
import { Stages } from './stages';

const THUMBNAIL_QUALITY = 82;
const MOST_MEASURED = 16;

type Progress = (part: number) => void;
type Worker = { [K in JobKind]: (ask: Jobs[K]['ask'], progress: Progress) => Answer | Promise<Answer> };

/** What goes on inside a worker, whatever host it runs in: it holds frames and answers jobs one by one. */
export class Workshop {
  private readonly frames = new Map<string, Frame>();
  private readonly planners = new Map<string, Planner>();
  private readonly paths = new Map<number, readonly SourceStep[]>();
  private stages = new Stages(1, () => this.goOn());
  private dropped: Int32Array | null = null;
  private giveSign = (): void => undefined;
  /** The job whose pixels are being computed, which no other interrupts. */
  private number = 0;
  private readonly kept = new Map<string, Measured>();

  /** @param drawn makes of RGBA, which it is only lent, what is drawn fastest where this workshop's answers go */
  constructor(
    private readonly drawn: (pixels: Uint8ClampedArray<ArrayBuffer>, size: Rect) => Drawn | Promise<Drawn> = (
      pixels
    ) => pixels.slice()
  ) {}

  /** Takes one message; an answer goes to `reply` with the buffers that may be handed over. */
  async take(
    message: ToWorker,
    reply: (message: FromWorker, transfer: Transferred[]) => void
  ): Promise<void> {
    if (message.type === 'frame') this.frames.set(message.id, message.frame);
    else if (message.type === 'share') {
      this.stages = new Stages(message.part, () => this.goOn());
      this.dropped = message.dropped;
      const { signs, place } = message;
      this.giveSign = () => void Atomics.add(signs, place, 1);
    } else if (message.type === 'forget') {
      this.frames.delete(message.id);
      // Plans of other frames may hold this one as what lies beside them.
      this.planners.clear();
      this.stages.clear();
    } else if (message.type === 'together') {
      for (const one of message.messages) await this.take(one, reply);
    } else if (message.type === 'path') {
      this.paths.set(message.path, message.steps);
      for (const oldest of this.paths.keys()) {
        if (this.paths.size <= REMEMBERED_PATHS) break;
        this.paths.delete(oldest);
      }
    } else {
      const { number, job, path } = message;
      try {
        this.number = number;
        this.goOn();
        const work = this.work[job.kind] as (ask: unknown, progress: Progress) => Answer | Promise<Answer>;
        const ask = path === undefined ? job.ask : { ...job.ask, steps: this.paths.get(path) };
        const answer = await work(ask, (part) => reply({ type: 'progress', number, part }, []));
        reply({ type: 'answer', number, answer }, transferable(answer));
      } catch (error) {
        const { name, message } = error as Error;
        reply({ type: 'failure', number, error: { name, message } }, []);
      }
    }
  }

  private readonly work: Worker = {
    open: async ({ file }) => openFrame(await bytesOf(file)),
    preview: async ({ file, size }) => {
      const { frame } = await openFrame(await bytesOf(file));
      const plan = new Planner(frame).plan([]);
      const jpeg = await smallPicture(plan, size, (level, rect, use) =>
        withEvaluated(plan, level, rect, null, use)
      );
      return { hash: await readable(() => contentHash(file)), jpeg };
    },
    name: async ({ file }) => ({ hash: await readable(() => contentHash(file)) }),
    unpack: ({ file }) => unpackBundle(file),
    pack: (bundle) => packBundle(bundle),
    tile: async (ask) => {
      const { level, rect, hold, view } = ask;
      const drawn = this.evaluated(ask, level, rect, hold, (raster) =>
        withScreenPixels(raster, view, (pixels) => this.drawn(pixels, rect))
      );
      return { pixels: await drawn };
    },
    read: ({ places, after, ...source }) => ({
      values: after.map((count) => {
        const plan = this.plan({ ...source, steps: source.steps.slice(0, count) });
        return places.map(({ x, y, size }) => meanAround(plan, { x, y }, size));
      })
    }),
    measure: ({ channels, after, part, ...source }) => ({
      measured: after.map((count) =>
        this.measured({ ...source, steps: source.steps.slice(0, count) }, channels, Math.min(...after), part)
      )
    }),
    clipped: ({ rect, channels, ...source }) =>
      this.evaluated(source, 0, rect, 0, ({ planes, width, height }) => {
        const n = width * height;
        const values = channels.map(() => new Float32Array(n));
        fillChannels(channels, planes, values, n);
        const counts = values.map((plane) => ({
          low: plane.reduce((sum, v) => sum + (v <= 0 ? 1 : 0), 0),
          high: plane.reduce((sum, v) => sum + (v >= 1 ? 1 : 0), 0)
        }));
        return { counts };
      }),
    solved: ({ index, ...source }) => {
      const { op, coefficients } = this.plan(source).steps[index];
      return { solved: op.solved?.(coefficients) ?? null };
    },
    rank: ({ want, avoid, ...source }) => {
      const plan = this.plan(source);
      return { candidates: separations(samplesUnder(plan, want), samplesUnder(plan, avoid)) };
    },
    shift: ({ other, ...source }) => ({ shift: measureShift(this.plan(source), this.plan(other)) }),
    render: ({ rect, samples, width, keepRange, grey, ...source }) => {
      this.evaluated(source, 0, rect, 0, (raster) => quantize(raster, samples, width, keepRange, grey));
      return null;
    },
    encode: async (
      { format, width, height, alpha, grey, samples, toWidth, toHeight, quality },
      onProgress
    ) => {
      const resized = toWidth !== width || toHeight !== height;
      const channels = finishedChannels({ alpha, grey });
      const kind = grey ? 'values' : alpha ? 'colours and alpha' : 'colours';
      const finished = resized
        ? resample(samples, width, height, channels, toWidth, toHeight, kind)
        : samples;
      const writer = fileFormats.find((f) => f.id === format)!;
      return writer.write(
        { width: toWidth, height: toHeight, alpha, grey, samples: finished },
        { quality, onProgress }
      );
    },
    thumbnail: ({ size, ...source }) =>
      smallPicture(this.plan(source), size, (level, rect, use) => this.evaluated(source, level, rect, 0, use))
  };

  /** @throws DOMException AbortError where the job at hand was taken back */
  private goOn(): void {
    this.giveSign();
    const { dropped, number } = this;
    if (dropped !== null && Atomics.load(dropped, number % dropped.length) === number)
      throw new DOMException('The work was taken back.', 'AbortError');
  }

  private frame(id: string): Frame {
    const frame = this.frames.get(id);
    if (!frame) throw new Error(`The frame ${id} is not registered with this worker.`);
    return frame;
  }

  /** What a step that is being edited takes in stays the same: it is measured once. */
  private measured(source: PictureSource, channels: readonly string[], hold: number, part?: Part): Measured {
    const pins = pinKey(source.steps, source.pins ?? []);
    const key = JSON.stringify([source.frame, source.steps.map(stepKey), pins, channels, part]);
    const known = this.kept.get(key);
    if (known) return known;
    const measured = measurePicture(
      this.plan(source),
      channels,
      (level) => (rect, use) => this.evaluated(source, level, rect, hold, use),
      part
    );
    this.kept.set(key, measured);
    for (const oldest of this.kept.keys()) {
      if (this.kept.size <= MOST_MEASURED) break;
      this.kept.delete(oldest);
    }
    return measured;
  }

  private plan({ frame, steps, pins }: PictureSource): Plan {
    return this.planner(frame).plan(steps, pins);
  }

  private readonly planner = (frame: string): Planner => {
    let planner = this.planners.get(frame);
    if (!planner)
      this.planners.set(frame, (planner = new Planner(this.frame(frame), this.planner, () => this.goOn())));
    return planner;
  };

  private evaluated<T>(
    source: PictureSource,
    level: number,
    rect: Rect,
    hold: number,
    use: (raster: Raster) => T
  ): T {
    const { frame, steps, pins = [] } = source;
    return this.stages.evaluated(this.plan(source), { frame, steps, pins }, level, rect, hold, use);
  }
}

type EvaluatedAt = (level: number, rect: Rect, use: (raster: Raster) => ScreenPixels) => ScreenPixels;
type ScreenPixels = ReturnType<typeof screenPixels>;

/** A JPEG of the whole picture, `size` pixels along its longer side. */
function smallPicture(plan: Plan, size: number, evaluated: EvaluatedAt): Promise<Uint8Array> {
  const sizes = plan.frame.levels.map((_, level) => planSize(plan, level));
  const level = Math.max(
    0,
    sizes.findLastIndex((l) => Math.max(l.width, l.height) >= size)
  );
  const { width, height } = sizes[level];
  const pixels = evaluated(level, { x: 0, y: 0, width, height }, (raster) => screenPixels(raster, 'colour'));
  const scale = Math.min(1, size / Math.max(width, height));
  const toWidth = Math.max(1, Math.round(width * scale));
  const toHeight = Math.max(1, Math.round(height * scale));
  const samples = resample(
    new Uint8Array(pixels.buffer),
    width,
    height,
    4,
    toWidth,
    toHeight,
    'colours and alpha'
  );
  const jpeg = fileFormats.find((f) => f.id === 'jpeg')!;
  return jpeg.write(
    { width: toWidth, height: toHeight, alpha: true, samples },
    { quality: THUMBNAIL_QUALITY }
  );
}

type Transferred = ArrayBuffer | ImageBitmap;

function transferable(answer: Answer): Transferred[] {
  if (answer instanceof Uint8Array) return answer.buffer instanceof ArrayBuffer ? [answer.buffer] : [];
  if (!answer || answer instanceof Blob || !('pixels' in answer)) return [];
  return [answer.pixels instanceof Uint8ClampedArray ? answer.pixels.buffer : answer.pixels];
}
