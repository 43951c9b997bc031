import type { Camera } from './camera';
import type { Scene } from './scene';
import { dryingYard } from './scenes/drying-yard';
import { jugUnderLamps } from './scenes/jug-under-lamps';
import { quenchTank } from './scenes/quench-tank';

/** One sample document: the picture of a scene at Skerry Kiln, and what is wrong with it. */
export interface Sample {
  readonly id: string;
  readonly title: string;
  readonly note: string;
  readonly file: string;
  readonly format: 'jpeg' | 'png';
  readonly scene: Scene;
  readonly camera: Camera;
}

export const SAMPLE_WIDTH = 2400;
export const SAMPLE_HEIGHT = 1600;

export const samples: readonly Sample[] = [
  {
    id: 'jug-under-lamps',
    title: 'Jug under lamps',
    file: 'jug-under-lamps.png',
    format: 'png',
    note: 'A rose lamp from one side, daylight from the other. The jug should be white.',
    scene: jugUnderLamps,
    camera: { exposure: 0.9, falloff: 0.32, grain: 0.006, seed: 11 }
  },
  {
    id: 'quench-tank',
    title: 'Quench tank',
    file: 'quench-tank.jpg',
    format: 'jpeg',
    note: 'Shot through water: red has almost no signal.',
    scene: quenchTank,
    camera: { exposure: 0.9, falloff: 0.35, grain: 0.007, seed: 12 }
  },
  {
    id: 'drying-yard',
    title: 'Drying yard',
    file: 'drying-yard.jpg',
    format: 'jpeg',
    note: 'Near-infrared: all reddish violet. Leaves should be pale, the sky dark.',
    scene: dryingYard,
    camera: { exposure: 0.8, falloff: 0.3, grain: 0.008, seed: 13 }
  }
];
