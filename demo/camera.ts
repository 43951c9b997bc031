import { exactEncode } from '../src/core/colour/transfer';
import { randomStream, scattered } from '../src/core/random';

export interface Camera {
  /** Gain on linear light. */
  readonly exposure: number;
  /** How much darker the corners are, 0…1. */
  readonly falloff: number;
  /** Standard deviation of the grain in coded values at middle grey. */
  readonly grain: number;
  readonly seed: number;
}

/** What a camera makes of linear light: lens falloff, a shoulder before white, coding, grain. Samples 0…1. */
export function develop(light: Float32Array, width: number, height: number, camera: Camera): Float32Array {
  const random = randomStream(camera.seed);
  const out = new Float32Array(light.length);
  const corner = Math.hypot(width / 2, height / 2);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const r = Math.hypot(x - width / 2, y - height / 2) / corner;
      const gain = camera.exposure * (1 - camera.falloff * r * r);
      const common = scattered(random);
      for (let c = 0; c < 3; c++, i++) {
        const coded = exactEncode(shoulder(light[i] * gain));
        const noise =
          camera.grain *
          (0.6 * common + 0.8 * scattered(random)) *
          (0.5 + 1.6 * Math.sqrt(coded) * (1 - 0.5 * coded));
        out[i] = Math.min(1, Math.max(0, coded + noise));
      }
    }
  }
  return out;
}

/** Straight up to 0.75, then bending so that white is reached slowly. */
function shoulder(v: number): number {
  const knee = 0.75;
  return v <= knee ? v : knee + (1 - knee) * (1 - Math.exp(-(v - knee) / (1 - knee)));
}

/** Linear light as a camera sees it that has moved by `(dx, dy)` pixels: the picture lies that much further right and down. */
export function moved(
  light: Float32Array,
  width: number,
  height: number,
  [dx, dy]: readonly [number, number]
): Float32Array {
  const out = new Float32Array(light.length);
  const within = (v: number, most: number): number => Math.min(most, Math.max(0, v));
  for (let y = 0, i = 0; y < height; y++) {
    const v = within(y - dy, height - 1);
    const v0 = Math.floor(v);
    const v1 = Math.min(height - 1, v0 + 1);
    for (let x = 0; x < width; x++) {
      const u = within(x - dx, width - 1);
      const u0 = Math.floor(u);
      const u1 = Math.min(width - 1, u0 + 1);
      for (let c = 0; c < 3; c++, i++) {
        const row = (at: number): number =>
          light[(at * width + u0) * 3 + c] * (u0 + 1 - u) + light[(at * width + u1) * 3 + c] * (u - u0);
        out[i] = row(v0) * (v0 + 1 - v) + row(v1) * (v - v0);
      }
    }
  }
  return out;
}
