import type { Step } from '../core/document';
import { fileFormats } from '../core/files';
import { openFrame } from '../core/files/open-frame';
import { evaluate, neededRect, withEvaluated, type Held } from '../core/path/evaluate';
import { prepareSteps, type PreparedStep } from '../core/path/prepare';
import { quantize } from '../core/path/quantize';
import { screenPixels } from '../core/path/view';
import type { Frame } from '../core/raster/frame';
import type { Raster, Rect } from '../core/raster/raster';
import { resample } from '../core/raster/resample';
import type { Answer, FromWorker, JobKind, Jobs, PictureSource, ToWorker } from './jobs';
import { TileCache } from './tile-cache';

const HELD_BYTES = 96 * 2 ** 20;
const THUMBNAIL_QUALITY = 82;

type Progress = (part: number) => void;
type Worker = { [K in JobKind]: (ask: Jobs[K]['ask'], progress: Progress) => Answer | Promise<Answer> };

/** What goes on inside a worker, whatever host it runs in: it holds frames and answers jobs one by one. */
export class Workshop {
  private readonly frames = new Map<string, Frame>();
  private readonly held = new TileCache(HELD_BYTES);
  private prepared: { key: string; steps: PreparedStep[] } = { key: '[]', steps: [] };

  /** Takes one message; an answer goes to `reply` with the buffers that may be handed over. */
  async take(
    message: ToWorker,
    reply: (message: FromWorker, transfer: ArrayBuffer[]) => void
  ): Promise<void> {
    if (message.type === 'frame') this.frames.set(message.id, message.frame);
    else if (message.type === 'forget') {
      this.frames.delete(message.id);
      this.held.clear();
    } else {
      const { number, job } = message;
      try {
        const work = this.work[job.kind] as (ask: unknown, progress: Progress) => Answer | Promise<Answer>;
        const answer = await work(job.ask, (part) => reply({ type: 'progress', number, part }, []));
        reply({ type: 'answer', number, answer }, transferable(answer));
      } catch (error) {
        const { name, message } = error as Error;
        reply({ type: 'failure', number, error: { name, message } }, []);
      }
    }
  }

  private readonly work: Worker = {
    open: ({ bytes }) => openFrame(bytes),
    tile: (ask) => {
      const { width, height } = ask.rect;
      const pixels = this.evaluated(ask, ask.level, ask.rect, ask.hold, (raster) =>
        screenPixels(raster, ask.view)
      );
      return { pixels, width, height };
    },
    read: ({ x, y, after, ...source }) => {
      const rect = { x, y, width: 1, height: 1 };
      return after.map((count) => {
        const steps = source.steps.slice(0, count);
        return this.evaluated({ ...source, steps }, 0, rect, 0, ({ planes }) => planes.map((p) => p[0]));
      });
    },
    render: ({ rect, samples, width, keepRange, ...source }) => {
      this.evaluated(source, 0, rect, 0, (raster) => quantize(raster, samples, width, keepRange));
      return null;
    },
    encode: async ({ format, width, height, alpha, samples, toWidth, toHeight, quality }, onProgress) => {
      const resized = toWidth !== width || toHeight !== height;
      const channels = alpha ? 4 : 3;
      const finished = resized ? resample(samples, width, height, channels, toWidth, toHeight) : samples;
      const writer = fileFormats.find((f) => f.id === format)!;
      return writer.write(
        { width: toWidth, height: toHeight, alpha, samples: finished },
        { quality, onProgress }
      );
    },
    thumbnail: async ({ size, ...source }) => {
      const { levels } = this.frame(source.frame);
      const fits = levels.findLastIndex((l) => Math.max(l.width, l.height) >= size);
      const level = Math.max(0, fits);
      const { width, height } = levels[level];
      const rect = { x: 0, y: 0, width, height };
      const pixels = this.evaluated(source, level, rect, 0, (raster) => screenPixels(raster, 'colour'));
      const scale = Math.min(1, size / Math.max(width, height));
      const toWidth = Math.max(1, Math.round(width * scale));
      const toHeight = Math.max(1, Math.round(height * scale));
      const samples = resample(new Uint8Array(pixels.buffer), width, height, 4, toWidth, toHeight);
      const jpeg = fileFormats.find((f) => f.id === 'jpeg')!;
      return jpeg.write(
        { width: toWidth, height: toHeight, alpha: true, samples },
        { quality: THUMBNAIL_QUALITY }
      );
    }
  };

  private frame(id: string): Frame {
    const frame = this.frames.get(id);
    if (!frame) throw new Error(`The frame ${id} is not registered with this worker.`);
    return frame;
  }

  private prepare(steps: readonly Step[]): PreparedStep[] {
    const key = JSON.stringify(steps);
    if (key !== this.prepared.key) this.prepared = { key, steps: prepareSteps(steps) };
    return this.prepared.steps;
  }

  private evaluated<T>(
    { frame: id, steps }: PictureSource,
    level: number,
    rect: Rect,
    hold: number,
    use: (raster: Raster) => T
  ): T {
    const frame = this.frame(id);
    const prepared = this.prepare(steps);
    let held: Held | null = null;
    if (hold > 0) {
      const needed = neededRect(frame, prepared.slice(hold), level, rect);
      const key = JSON.stringify([id, level, needed, steps.slice(0, hold)]);
      let raster = this.held.get(key);
      if (!raster) {
        raster = evaluate(frame, prepared.slice(0, hold), level, needed);
        this.held.set(key, raster);
      }
      held = { steps: hold, raster };
    }
    return withEvaluated(frame, prepared, level, rect, held, use);
  }
}

function transferable(answer: Answer): ArrayBuffer[] {
  if (answer instanceof Uint8Array) return answer.buffer instanceof ArrayBuffer ? [answer.buffer] : [];
  return answer && 'pixels' in answer ? [answer.pixels.buffer] : [];
}
