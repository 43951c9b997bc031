import { randomStream } from '../../src/core/random';
import { onGrid, type Glow } from './objects';
import { addStars, type Moffat, type Star } from './stars';

/** How a frame was taken, in counts of 0…65535. */
export interface Exposing {
  readonly filter: string;
  readonly seconds: number;
  readonly glow: Glow;
  /** Counts of the object at 1. */
  readonly strength: number;
  readonly sky: number;
  /** Gradient of the sky in counts: of 1, x, y, x², xy, y² over −1…1 of the longer side. */
  readonly gradient: readonly number[];
  readonly stars: readonly Star[];
  readonly psf: Moffat;
  readonly starlight: (star: Star) => number;
  /** Counts an electron, and the scatter of reading out, in counts. */
  readonly gain: number;
  readonly readNoise: number;
  /** σ of the offsets of whole rows; 0 for none. */
  readonly lines: number;
  readonly hot: number;
  /** From and to, in parts of the frame; its strength in counts. */
  readonly trail?: {
    readonly from: readonly [number, number];
    readonly to: readonly [number, number];
    readonly light: number;
  };
  readonly seed: number;
}

/** What is known of a frame that only its maker knows. */
export interface Truth {
  readonly filter: string;
  readonly sky: number;
  readonly gradient: readonly number[];
  readonly lines: readonly number[];
  /** σ of the noise of empty sky. */
  readonly noise: number;
  readonly psf: Moffat;
}

export interface Exposed {
  readonly samples: Uint16Array;
  readonly truth: Truth;
  /** Light of the object and the stars without sky, noise and lines. */
  readonly clean: Float32Array;
}

/** The sky's gradient at a pixel, in counts. */
export function gradientAt(
  gradient: readonly number[],
  x: number,
  y: number,
  width: number,
  height: number
): number {
  const half = Math.max(width, height) / 2;
  const [u, v] = [(x - width / 2) / half, (y - height / 2) / half];
  return [1, u, v, u * u, u * v, v * v].reduce((sum, term, i) => sum + term * (gradient[i] ?? 0), 0);
}

const WHITE = 65535;

/** Normally scattered numbers (Box & Muller 1958), two at a time. */
function normals(seed: number): () => number {
  const random = randomStream(seed);
  let kept = 0;
  let has = false;
  return () => {
    if (has) {
      has = false;
      return kept;
    }
    const r = Math.sqrt(-2 * Math.log(1 - random()));
    const angle = 2 * Math.PI * random();
    kept = r * Math.sin(angle);
    has = true;
    return r * Math.cos(angle);
  };
}

const TRAIL_WIDTH = 1.6;

export function expose(how: Exposing, width: number, height: number): Exposed {
  const clean = onGrid(width, height, how.glow);
  for (let i = 0; i < clean.length; i++) clean[i] *= how.strength;
  addStars(clean, width, height, how.stars, how.psf, how.starlight);
  const normal = normals(how.seed);
  const lines = Array.from({ length: height }, () => how.lines * normal());
  const samples = new Uint16Array(width * height);
  const trail = how.trail && {
    ...{ x: how.trail.from[0] * width, y: how.trail.from[1] * height, light: how.trail.light },
    dx: (how.trail.to[0] - how.trail.from[0]) * width,
    dy: (how.trail.to[1] - how.trail.from[1]) * height
  };
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      let light = clean[i] + how.sky + gradientAt(how.gradient, x, y, width, height);
      if (trail) {
        const across =
          Math.abs((x - trail.x) * trail.dy - (y - trail.y) * trail.dx) / Math.hypot(trail.dx, trail.dy);
        if (across < 6 * TRAIL_WIDTH) light += trail.light * Math.exp(-0.5 * (across / TRAIL_WIDTH) ** 2);
      }
      // What is over the well's brim is lost before it is read out.
      const held = Math.min(WHITE, light);
      const scattered = held + Math.sqrt(held * how.gain + how.readNoise ** 2) * normal() + lines[y];
      samples[i] = Math.min(WHITE, Math.max(0, Math.round(scattered)));
    }
  }
  const random = randomStream(how.seed + 1);
  for (let k = 0; k < how.hot; k++)
    samples[Math.floor(random() * samples.length)] = 20_000 + Math.floor(45_535 * random());
  const { filter, sky, gradient, psf } = how;
  const noise = Math.sqrt(sky * how.gain + how.readNoise ** 2);
  return { samples, clean, truth: { filter, sky, gradient, lines, noise, psf } };
}
