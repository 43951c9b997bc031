import { randomStream, scattered } from '../src/core/random';
import { develop } from './camera';
import { sampleShot } from './samples';
import { expose } from './sky/expose';
import { sessionOf } from './sky/frames';
import { trace } from './trace';

/** Grey pictures without noise, for tests of what takes noise out: three of the scenes, and the Lantern stretched, with its stars. */
export const CLEAN = ['glaze-tiles', 'clay-figure', 'harbour-in-haze', 'lantern'] as const;
export const [CLEAN_WIDTH, CLEAN_HEIGHT] = [360, 240];

/** Green of a scene as the camera codes it, or asinh-stretched light. Samples 0…1. */
export function cleanPicture(id: (typeof CLEAN)[number]): Float32Array {
  const [width, height] = [CLEAN_WIDTH, CLEAN_HEIGHT];
  if (id === 'lantern') {
    const { exposures } = sessionOf('lantern', width, height);
    const { clean } = expose(exposures[1], width, height);
    return clean.map((v) => Math.min(1, Math.asinh(60 * (v / 65535)) / Math.asinh(60)));
  }
  const { scene, camera } = sampleShot(id);
  const coded = develop(trace(scene, width, height), width, height, { ...camera, grain: 0 });
  return Float32Array.from({ length: width * height }, (_, i) => coded[3 * i + 1]);
}

/** White noise of σ, normally scattered (Box & Muller 1958). */
export function withNoise(picture: Float32Array, sigma: number, seed: number): Float32Array {
  const random = randomStream(seed);
  return picture.map((v) => v + sigma * scattered(random));
}
