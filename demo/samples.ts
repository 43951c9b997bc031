import type { Camera } from './camera';
import { samples, type SampleInfo } from './list';
import type { Scene } from './scene';
import { moire, oldPrint, type Finish } from './finish';
import { clayFigure } from './scenes/clay-figure';
import { dryingYard } from './scenes/drying-yard';
import { glazeTiles } from './scenes/glaze-tiles';
import { harbourInHaze } from './scenes/harbour-in-haze';
import { jugUnderLamps } from './scenes/jug-under-lamps';
import { kilnDoor, packingTable } from './scenes/old-prints';
import { quenchTank } from './scenes/quench-tank';
import { workshopWindow } from './scenes/workshop-window';
import { wovenCloth } from './scenes/woven-cloth';

export const SAMPLE_WIDTH = 2400;
export const SAMPLE_HEIGHT = 1600;

/** How one frame of a scene differs from the camera's own: gain on light, and how far the camera had moved, in pixels. */
interface Exposure {
  readonly gain: number;
  readonly moved: readonly [number, number];
}

interface Shot {
  readonly scene: Scene;
  readonly camera: Camera;
  readonly finish?: Finish;
  /** One for each file, where there are several. */
  readonly exposures?: readonly Exposure[];
}

const shots: Record<string, Shot> = {
  'jug-under-lamps': {
    scene: jugUnderLamps,
    camera: { exposure: 0.9, falloff: 0.32, grain: 0.006, seed: 11 }
  },
  'quench-tank': { scene: quenchTank, camera: { exposure: 0.9, falloff: 0.35, grain: 0.007, seed: 12 } },
  'drying-yard': { scene: dryingYard, camera: { exposure: 0.8, falloff: 0.3, grain: 0.008, seed: 13 } },
  'old-print': {
    scene: packingTable,
    camera: { exposure: 1.25, falloff: 0.2, grain: 0.012, seed: 14 },
    finish: oldPrint(31)
  },
  'old-print-two': {
    scene: kilnDoor,
    camera: { exposure: 1.2, falloff: 0.2, grain: 0.012, seed: 15 },
    finish: oldPrint(32)
  },
  'glaze-tiles': { scene: glazeTiles, camera: { exposure: 1, falloff: 0.12, grain: 0.004, seed: 16 } },
  'woven-cloth': {
    scene: wovenCloth,
    camera: { exposure: 1, falloff: 0.2, grain: 0.004, seed: 17 },
    finish: moire
  },
  'harbour-in-haze': {
    scene: harbourInHaze,
    camera: { exposure: 1, falloff: 0.2, grain: 0.006, seed: 18 }
  },
  'workshop-window': {
    scene: workshopWindow,
    camera: { exposure: 1, falloff: 0.15, grain: 0.006, seed: 19 },
    exposures: [
      { gain: 0.25, moved: [0, 0] },
      { gain: 1, moved: [0, 0] },
      { gain: 4, moved: [5.5, -3.25] }
    ]
  },
  'clay-figure': { scene: clayFigure, camera: { exposure: 1, falloff: 0.3, grain: 0.006, seed: 20 } }
};

/** A sample with the scene and the camera that make its picture. @throws RangeError for an unknown id */
export function sampleShot(id: string): SampleInfo & Shot {
  const sample = samples.find((s) => s.id === id);
  const shot = shots[id];
  if (!sample || !shot) throw new RangeError(`There is no sample “${id}”.`);
  return { ...sample, ...shot };
}
