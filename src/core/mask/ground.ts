import { fillChannels, models, type Planes } from '../colour';
import { takePlane } from '../kernels/arena';
import type { Field } from '../spatial/field';
import { fillMask } from './fill';
import type { PreparedMask } from './prepare';

/** What masks over one rectangle are made of: the step's input and the pictures beside it. Lives as long as the arena's block. */
export class MaskGround implements Field {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly n: number;
  private readonly read = new Map<string, Float32Array>();

  /** @param scale pixels of this level a full-size pixel @param beside over the same rectangle */
  constructor(
    readonly planes: Planes,
    field: Field,
    readonly scale: number,
    private readonly beside: readonly Planes[]
  ) {
    ({ x: this.x, y: this.y, width: this.width, height: this.height } = field);
    this.needed = field.needed;
    this.n = field.width * field.height;
  }
  readonly needed: Field['needed'];

  /** The stored values of a channel of the step's input, or of a picture beside it; a model is computed once. */
  channel(id: string, of: number | null = null): Float32Array {
    const key = `${of ?? ''} ${id}`;
    const known = this.read.get(key);
    if (known) return known;
    const planes = of === null ? this.planes : this.beside[of];
    const model = models.find((m) => m.channels.some((c) => c.id === id));
    if (model?.id === 'rgb') return planes[model.channels.findIndex((c) => c.id === id)];
    if (model) {
      const values = Array.from({ length: model.planes }, () => takePlane(this.n));
      model.fromRgb(planes, values, this.n);
      model.channels.forEach((c, i) => this.read.set(`${of ?? ''} ${c.id}`, values[i]));
    } else {
      const values = takePlane(this.n);
      fillChannels([id], planes, [values], this.n);
      this.read.set(key, values);
    }
    return this.read.get(key)!;
  }

  mask(mask: PreparedMask, out: Float32Array): void {
    fillMask(mask, this, out);
  }
}
