import {
  fillChannel,
  labAndLuminance,
  models,
  type ColourModel,
  type Encoding,
  type Planes
} from '../colour';
import { takePlane } from '../kernels/arena';
import type { Field } from '../spatial/field';
import { fillMask } from './fill';
import type { PreparedMask } from './prepare';

/** A picture beside a step: its planes, 0 where it is missing, and the places where that is. */
export interface PictureBeside {
  readonly planes: Planes;
  readonly encoding: Encoding;
  readonly absent: readonly number[] | null;
}

/** Writes what comes of three linear planes by a stretch into three that are coded. */
export type Stretch = (planes: Planes, out: Planes, n: number) => void;

/** How a term sees the linear ones of the pictures that it is made of. */
export interface Stretches {
  /** The step's input; null where it is coded or no term asks for it. */
  own: Stretch | null;
  /** Pictures beside the step, by their place among them. */
  readonly beside: Map<number, Stretch>;
}

/** What masks over one rectangle are made of: the step's input and the pictures beside it. Lives as long as the arena's block. */
export class MaskGround implements Field {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly n: number;
  private readonly read = new Map<string, Planes>();
  private readonly masks = new Map<PreparedMask, Float32Array>();
  private readonly views = new Map<Stretches, MaskGround>();

  /**
   * @param scale pixels of this level a full-size pixel @param beside over the same rectangle
   * @param channels of the step's input that its masks will ask for
   */
  constructor(
    readonly planes: Planes,
    readonly encoding: Encoding,
    field: Field,
    readonly scale: number,
    private readonly beside: readonly PictureBeside[],
    private readonly channels: readonly string[] = []
  ) {
    ({ x: this.x, y: this.y, width: this.width, height: this.height } = field);
    this.needed = field.needed;
    this.present = field.present;
    this.n = field.width * field.height;
  }
  readonly needed: Field['needed'];
  readonly present: Field['present'];

  /** The stored values of a channel of the step's input, or of a picture beside it. */
  channel(id: string, of: number | null = null): Float32Array {
    const model = models.find((m) => m.channels.some((c) => c.id === id));
    if (model) return this.model(model, of)[model.channels.findIndex((c) => c.id === id)];
    const [values] = this.kept(`${of ?? ''} ${id}`, () => {
      const plane = takePlane(this.n);
      fillChannel(id, this.rgb(of), this.encodingOf(of), plane, this.n);
      return [plane];
    });
    return values;
  }

  /** All stored values of a model. */
  model(model: ColourModel, of: number | null = null): Planes {
    if (model.id === 'rgb') return this.rgb(of);
    return this.kept(`${of ?? ''} ${model.id}`, () => {
      const values = Array.from({ length: model.planes }, () => takePlane(this.n));
      if (of === null && model.id === 'lab' && this.encoding === 'coded' && this.willAsk('lum')) {
        // Both are of the same light.
        const luminance = takePlane(this.n);
        labAndLuminance(this.planes, values, luminance, this.n);
        this.kept(' lum', () => [luminance]);
      } else model.kernels[this.encodingOf(of)].fromRgb(this.rgb(of), values, this.n);
      return values;
    });
  }

  /** The same, its linear pictures seen through a stretch. */
  through(stretches: Stretches): MaskGround {
    const known = this.views.get(stretches);
    if (known) return known;
    const stretched = (planes: Planes, stretch: Stretch): Planes => {
      const out = planes.map(() => takePlane(this.n));
      stretch(planes, out, this.n);
      return out;
    };
    const { own } = stretches;
    const beside = this.beside.map((picture, i): PictureBeside => {
      const stretch = stretches.beside.get(i);
      return stretch
        ? { ...picture, planes: stretched(picture.planes, stretch), encoding: 'coded' }
        : picture;
    });
    const view = new MaskGround(
      own ? stretched(this.planes, own) : this.planes,
      own ? 'coded' : this.encoding,
      this,
      this.scale,
      beside
    );
    this.views.set(stretches, view);
    return view;
  }

  private willAsk(channel: string): boolean {
    return this.channels.includes(channel) && !this.read.has(` ${channel}`);
  }

  private encodingOf(of: number | null): Encoding {
    return of === null ? this.encoding : this.beside[of].encoding;
  }

  private rgb(of: number | null): Planes {
    return of === null ? this.planes : this.beside[of].planes;
  }

  /** Where a picture beside the step is missing or does not reach; null where it is whole. */
  absent(of: number | null): readonly number[] | null {
    return of === null ? null : this.beside[of].absent;
  }

  private kept(key: string, make: () => Planes): Planes {
    const known = this.read.get(key) ?? make();
    this.read.set(key, known);
    return known;
  }

  /** A mask; one that others are made of as well is made once. */
  mask(mask: PreparedMask, out: Float32Array): void {
    const known = this.masks.get(mask);
    if (known) return out.set(known.subarray(0, this.n));
    fillMask(mask, this, out);
  }

  /** A named mask, which many terms may be made of. */
  namedMask(mask: PreparedMask, out: Float32Array): void {
    if (!this.masks.has(mask)) {
      const plane = takePlane(this.n);
      fillMask(mask, this, plane);
      this.masks.set(mask, plane);
    }
    this.mask(mask, out);
  }
}
