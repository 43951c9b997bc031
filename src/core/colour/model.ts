import type { Planes } from './planes';

export type ModelId = 'rgb' | 'lab' | 'cmyk' | 'hsv' | 'lch';

/** How a stored value (0…1 nominal) is told to a person: `value · scale + offset` in `unit`. */
export interface Readout {
  readonly scale: number;
  readonly offset: number;
  readonly unit: '%' | '°' | '';
  readonly digits: number;
  /** Deviations from a neutral middle are told with their sign. */
  readonly signed?: boolean;
}

export interface Channel {
  /** `model.letter`, or a name of its own for the derived ones. */
  readonly id: string;
  readonly letter: string;
  /** The trade's short sign, e.g. `R`, `L*`, `K`. */
  readonly sign: string;
  readonly name: string;
  readonly readout: Readout;
  /** Ink: shown as it lies on paper, much ink is dark. */
  readonly ink?: boolean;
  /** An amount of light (of paper, for ink), which in a linear picture is encoded to be seen. */
  readonly light?: boolean;
}

/** Whether RGB holds sRGB-encoded values or values proportional to light. */
export type Encoding = 'coded' | 'linear';

/** What leads from RGB to the stored values of a model and back. */
export interface ModelKernels {
  /** `rgb` (3 planes) → `out` (`planes` planes), the first `n` samples. The two may be the same arrays. */
  fromRgb(rgb: Planes, out: Planes, n: number): void;
  /** `values` (`planes` planes) → `out` (3 planes of RGB). The two may be the same arrays. */
  toRgb(values: Planes, out: Planes, n: number): void;
}

/** The same kernels for both encodings: the model takes values as they stand. */
export const asTheyStand = (kernels: ModelKernels): Record<Encoding, ModelKernels> => ({
  coded: kernels,
  linear: kernels
});

/** A colour model: its channels, and kernels between RGB of each encoding and its stored values. */
export interface ColourModel {
  readonly id: ModelId;
  readonly title: string;
  readonly channels: readonly Channel[];
  /** Planes that the kernels need; the first `channels.length` are the channels, in their order. */
  readonly planes: number;
  readonly kernels: Readonly<Record<Encoding, ModelKernels>>;
}

export const percent: Readout = { scale: 100, offset: 0, unit: '%', digits: 1 };
export const degrees: Readout = { scale: 360, offset: 0, unit: '°', digits: 1 };
