import type { Look, PictureSource, Place, SourceStep } from '../core/document';
import type { SourceHead } from '../core/heads';
import type { Encoding } from '../core/colour';
import type { Baked, Baking } from '../core/lut/bake';
import type { Table } from '../core/lut/table';
import type { Candidate } from '../core/measure/separation';
import type { CountedPart, LowerHalves } from '../core/measure/order';
import type { PlaneStatistics } from '../core/measure/statistics';
import type { Sky } from '../core/measure/sky';
import type { Shift } from '../core/measure/shift';
import type { TakenOut } from '../core/measure/taken-out';
import type { Part } from '../core/path/analysis';
import type { Outside, WrittenAs } from '../core/path/outside';
import type { DifferenceView, DifferIn, Differing } from '../core/path/differing';
import type { Lift } from '../core/path/lift';
import type { Measured, Range } from '../core/path/measure';
import type { Lying } from '../core/path/plan';
import type { SolveAsk } from '../core/path/solver';
import type { SettleAsk } from '../core/path/settled';
import type { FileFormat, FinishedImage, ReadChoices } from '../core/files';
import type { FitsNotes } from '../core/files/fits/write';
import type { Bundle } from '../core/files/bundle';
import type { OutputSpace } from '../core/colour/own';
import type { OwnProfile } from '../core/files/own-profile';
import type { Quantizing } from '../core/path/quantize';
import type { Smaller } from '../core/path/smaller';
import type { View } from '../core/path/view';
import type { Frame, Samples } from '../core/raster/frame';
import type { Rect } from '../core/raster/raster';

/** A square of `size` full-size pixels about a place of the frame. */
export interface Spot {
  readonly x: number;
  readonly y: number;
  readonly size: number;
}

/** A picture at a place of its path; at its end where none is named. */
export interface PictureAt extends PictureSource {
  readonly at?: Place;
}

/** A picture, and places of its path. */
export interface PicturePlaces extends PictureSource {
  readonly places: readonly Place[];
}

/** What of a picture is seen: a view of it, or how it differs from another, so many times as strong. */
export type Seen =
  | { readonly view: View; readonly lift?: Lift | null; readonly other?: undefined }
  | { readonly view: DifferenceView; readonly other: PictureAt };

/** A tile as it goes to the screen: RGBA, or what the host of the worker has made of it to be drawn at once. */
export type Drawn = Uint8ClampedArray<ArrayBuffer> | ImageBitmap;

/** Finished samples, and the format that they are written in. */
type Finished = FinishedImage & { readonly format: FileFormat['id'] };
export interface FilePart {
  readonly bytes: Uint8Array;
}

/** Every kind of work a worker does: what it is asked and what it answers. */
export interface Jobs {
  /** Reads and decodes an image file. */
  open: { ask: { file: Blob; choices?: ReadChoices }; answer: { frame: Frame; notices: readonly string[] } };
  /**
   * Names an image file and decodes it for its small picture alone, `size` pixels along its longer side: what it takes in memory
   * ends with its worker.
   */
  preview: {
    ask: { file: Blob; size: number };
    answer: { hash: string; encoding: Encoding; jpeg: Uint8Array };
  };
  /** Reads a look. */
  look: { ask: { text: string }; answer: { look: Look } };
  /** Reads a file that holds a colour look-up table. */
  table: { ask: { file: Blob }; answer: { table: Table } };
  /** Makes a table of the steps of a path that a table can carry. */
  bake: { ask: PictureAt & { baking: Baking }; answer: { baked: Baked } };
  /** Writes a table as a .cube file, or as a picture; an untouched one where none is given. */
  writeTable: { ask: { table: Table; as: 'cube' } | { table: Table | null; as: 'png' }; answer: FilePart };
  /** Gives a file the name of its content. */
  name: { ask: { file: Blob }; answer: { hash: string } };
  /** Reads a bundle: its document and its files, of no more than `most` bytes where it says so. */
  unpack: { ask: { file: Blob; most?: number }; answer: Bundle };
  /** Makes one. */
  pack: { ask: Bundle; answer: Blob };
  /**
   * One tile for the screen. The raster that comes into the step `hold` is kept for the next request, so that a change of that
   * step, or of a later one, computes only from there.
   */
  tile: {
    ask: PictureAt & { hold: string | null; level: number; rect: Rect } & Seen;
    /**
     * Beside its pixels, what of the picture is still to be computed over the whole of it before they are what they will be;
     * and how long the worker was at it, in ms.
     */
    answer: { pixels: Drawn; waits: SettleAsk | null; took: number };
  };
  /**
   * The means of RGB over squares of `size` full-size pixels about spots of the head, at each of the places of the path; null
   * for a spot that is not in the picture.
   */
  read: {
    ask: PicturePlaces & { spots: readonly Spot[] };
    answer: { values: (readonly number[] | null)[][] };
  };
  /** Histograms of the channels and the density over a and b, at each of the places of the path; of a part. */
  measure: {
    ask: PicturePlaces & { channels: readonly string[]; range?: Range; part?: Part };
    answer: { measured: Measured[] };
  };
  /** Samples of full size at or below 0, and at or above 1, of each of the channels over `rect`. */
  clipped: {
    ask: PictureAt & { rect: Rect; channels: readonly string[] };
    answer: { counts: { low: number; high: number }[] };
  };
  /** What lies between `other` and the picture in each of the channels over `rect`, at full size. */
  takenOut: {
    ask: PictureAt & { other: PictureAt; rect: Rect; channels: readonly string[] };
    answer: { taken: TakenOut[] };
  };
  /** A part of a plane of the frame that a head is counted, at full size; looked at once more; its noise; and what all come to. */
  counted: { ask: PictureSource & { plane: number; part: Part }; answer: { counted: CountedPart } };
  lower: {
    ask: PictureSource & { plane: number; part: Part; parts: readonly CountedPart[] };
    answer: { lower: LowerHalves };
  };
  noise: { ask: PictureSource & { plane: number }; answer: { noise: number } };
  statistics: {
    ask: PictureSource & {
      plane: number;
      parts: readonly CountedPart[];
      lower: readonly LowerHalves[];
      noise: number;
    };
    answer: { statistics: PlaneStatistics };
  };
  /** How the pictures of an average join it, where it is solved, and the noise of each channel of the head. */
  head: { ask: PictureSource; answer: { solution: object | null; noise: readonly number[] } };
  /** The sky of each channel of the picture, as the eye's view of a dark one needs it. */
  skies: { ask: PictureAt; answer: { skies: readonly Sky[] } };
  /** Whether its channels are the same: looked at in a small level. */
  grey: { ask: PictureSource; answer: { grey: boolean } };
  /** How much the picture differs from another over `rect`, at full size. */
  differ: {
    ask: PictureAt & { other: PictureAt; rect: Rect; by: DifferIn };
    answer: { differing: Differing };
  };
  /** What a step has solved from the picture; null where it is off or solves nothing. */
  solved: { ask: PictureSource & { step: string }; answer: { solved: object | null } };
  /** Looks at the picture that comes into a step for what the step has to know of it. */
  solve: { ask: SolveAsk & { stages: readonly unknown[] }; answer: { solution: object } };
  /** A part of what an op looks at before, or all of its parts put together. */
  stage: {
    ask: SolveAsk & {
      stage: number;
      before: readonly unknown[];
      part?: unknown;
      found?: readonly unknown[];
    };
    answer: { made: unknown };
  };
  /** Computes `rect` of a result that is to be kept over the whole picture into shared `samples`. */
  settle: { ask: PictureSource & Lying & { rect: Rect; samples: Float32Array }; answer: null };
  /** Makes it, when all of it is there, what pictures begin from. */
  pyramid: { ask: PictureSource & Lying & { samples: Float32Array }; answer: { frame: Frame } };
  /** How well mask sources tell the samples under some places from those under others, in the picture as it comes. */
  rank: {
    ask: PictureAt & { want: readonly Spot[]; avoid: readonly Spot[] };
    answer: { candidates: Candidate[] };
  };
  /** How far another picture has moved against this one. */
  shift: { ask: PictureAt & { other: PictureSource }; answer: { shift: Shift } };
  /** Computes `rect` at full size into shared `samples` of an image `width` wide, and tells whether its colours are greys there. */
  render: {
    ask: PictureSource & { rect: Rect; samples: Samples; width: number; quantizing: Quantizing };
    answer: { grey: boolean };
  };
  /** Finished samples into the bytes of a file, made smaller first where they are to be. */
  encode: {
    ask: Finished & {
      smaller: Smaller | null;
      space: OutputSpace;
      quality: number;
      notes?: FitsNotes;
    };
    answer: Uint8Array;
  };
  /** A profile that files are to be written by. */
  profile: { ask: { file: Blob; name: string }; answer: { profile: OwnProfile } };
  /** One of the parts in which a file of finished samples can be made. */
  part: { ask: Finished & { index: number }; answer: FilePart };
  /** How many pixels of `rect`, at full size, lie outside of what they are written as. */
  outside: { ask: PictureSource & { rect: Rect; quantizing: WrittenAs }; answer: { outside: Outside } };
  /** A small JPEG of the whole picture, `size` pixels along its longer side; what lies outside of what it is written as may be hatched. */
  thumbnail: { ask: PictureSource & { size: number; hatched?: WrittenAs }; answer: Uint8Array };
}

export type JobKind = keyof Jobs;
export type Job = { [K in JobKind]: { kind: K; ask: Jobs[K]['ask'] } }[JobKind];
export type Answer = Jobs[JobKind]['answer'];

/** What many jobs are about: the steps of a picture, its head, another picture. */
export type SharedPart = readonly SourceStep[] | SourceHead | PictureAt;

/** What goes to a worker and what comes back. */
export type ToWorker =
  | { type: 'frame'; id: string; frame: Frame }
  | { type: 'forget'; id: string }
  /**
   * The part of the memory for kept rasters that is this worker's, where it sees what was taken back, and its place among
   * the signs of life, where it counts on.
   */
  | { type: 'share'; part: number; dropped: Int32Array; signs: Int32Array; place: number }
  /** Steps or a head that many jobs are about: they go to a worker once. */
  | { type: 'part'; part: number; value: SharedPart }
  /** The same of steps of which some stand in a list that the worker remembers, `like`: those are told by their place there. */
  | { type: 'steps'; part: number; like: number; steps: readonly (SourceStep | number)[] }
  /** The parts of what is asked that are told by their number. */
  | { type: 'job'; number: number; job: Job; parts?: Readonly<Record<string, number>> }
  /** A result over a whole picture, or that there is none any more. */
  | { type: 'settled'; key: string; frame: Frame | null }
  /** What was solved for a step, under the key of what was asked. */
  | { type: 'solution'; key: string; solution: object }
  /** Several at once: each that is sent costs the page about 0.2 ms, whatever is in it. */
  | { type: 'together'; messages: ToWorker[] };
/** So many of those a worker remembers: those that it was told last. */
export const REMEMBERED_PARTS = 64;
export type FromWorker =
  /** It is there, and takes work. */
  | { type: 'ready' }
  | { type: 'answer'; number: number; answer: Answer }
  | { type: 'failure'; number: number; error: { name: string; message: string } }
  /** The job can't be done before a step is solved; it is asked for again when that is known. */
  | { type: 'unsolved'; number: number; ask: SolveAsk }
  /** The same before a result is there over the whole picture. */
  | { type: 'unsettled'; number: number; ask: SettleAsk }
  | { type: 'progress'; number: number; part: number };
