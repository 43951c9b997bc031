import type { Camera } from './camera';
import { samples, type SampleInfo } from './list';
import type { Scene } from './scene';
import { dryingYard } from './scenes/drying-yard';
import { jugUnderLamps } from './scenes/jug-under-lamps';
import { quenchTank } from './scenes/quench-tank';

export const SAMPLE_WIDTH = 2400;
export const SAMPLE_HEIGHT = 1600;

const shots: Record<string, { scene: Scene; camera: Camera }> = {
  'jug-under-lamps': {
    scene: jugUnderLamps,
    camera: { exposure: 0.9, falloff: 0.32, grain: 0.006, seed: 11 }
  },
  'quench-tank': { scene: quenchTank, camera: { exposure: 0.9, falloff: 0.35, grain: 0.007, seed: 12 } },
  'drying-yard': { scene: dryingYard, camera: { exposure: 0.8, falloff: 0.3, grain: 0.008, seed: 13 } }
};

/** A sample with the scene and the camera that make its picture. @throws RangeError for an unknown id */
export function sampleShot(id: string): SampleInfo & { scene: Scene; camera: Camera } {
  const sample = samples.find((s) => s.id === id);
  const shot = shots[id];
  if (!sample || !shot) throw new RangeError(`There is no sample “${id}”.`);
  return { ...sample, ...shot };
}
