import { exactEncode } from '../src/core/colour/transfer';
import { randomStream } from '../src/core/random';

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
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const out = new Float32Array(light.length);
  const corner = Math.hypot(width / 2, height / 2);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const r = Math.hypot(x - width / 2, y - height / 2) / corner;
      const gain = camera.exposure * (1 - camera.falloff * r * r);
      const common = normal();
      for (let c = 0; c < 3; c++, i++) {
        const coded = exactEncode(shoulder(light[i] * gain));
        const noise =
          camera.grain * (0.6 * common + 0.8 * normal()) * (0.5 + 1.6 * Math.sqrt(coded) * (1 - 0.5 * coded));
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
