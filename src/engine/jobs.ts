import type { Step } from '../core/document';
import type { FileFormat } from '../core/files';
import type { View } from '../core/path/view';
import type { Frame, Samples } from '../core/raster/frame';
import type { Rect } from '../core/raster/raster';

/** A picture as workers know it: a registered frame and the steps that count. */
export interface PictureSource {
  readonly frame: string;
  readonly steps: readonly Step[];
}

/** Every kind of work a worker does: what it is asked and what it answers. */
export interface Jobs {
  /** Decodes an image file. */
  open: { ask: { bytes: Uint8Array }; answer: { frame: Frame; notices: readonly string[] } };
  /**
   * One tile for the screen. The raster after the first `hold` steps is kept for the next request,
   * so that a change of a later step computes only from there.
   */
  tile: {
    ask: PictureSource & { hold: number; level: number; rect: Rect; view: View };
    answer: { pixels: Uint8ClampedArray<ArrayBuffer>; width: number; height: number };
  };
  /** The values of one full-size pixel, coded RGB, after each of the step counts asked for. */
  read: { ask: PictureSource & { x: number; y: number; after: readonly number[] }; answer: number[][] };
  /** Computes `rect` at full size into shared `samples` of an image `width` wide. */
  render: {
    ask: PictureSource & { rect: Rect; samples: Samples; width: number; keepRange: boolean };
    answer: null;
  };
  /** Finished samples into the bytes of a file, resampled first where the size differs. */
  encode: {
    ask: {
      format: FileFormat['id'];
      width: number;
      height: number;
      alpha: boolean;
      samples: Samples;
      toWidth: number;
      toHeight: number;
      quality: number;
    };
    answer: Uint8Array;
  };
  /** A small JPEG of the whole picture, `size` pixels along its longer side. */
  thumbnail: { ask: PictureSource & { size: number }; answer: Uint8Array };
}

export type JobKind = keyof Jobs;
export type Job = { [K in JobKind]: { kind: K; ask: Jobs[K]['ask'] } }[JobKind];
export type Answer = Jobs[JobKind]['answer'];

/** What goes to a worker and what comes back. */
export type ToWorker =
  | { type: 'frame'; id: string; frame: Frame }
  | { type: 'forget'; id: string }
  | { type: 'job'; number: number; job: Job };
export type FromWorker =
  | { type: 'answer'; number: number; answer: Answer }
  | { type: 'failure'; number: number; error: { name: string; message: string } }
  | { type: 'progress'; number: number; part: number };
