import { randomStream } from '../../src/core/random';

/** A star: its place in pixels, and its light in each filter relative to its own total. */
export interface Star {
  readonly x: number;
  readonly y: number;
  readonly flux: number;
  /** 0 blue … 1 red. */
  readonly redness: number;
}

/** Stars as a seed has them: many faint ones, few bright ones (each magnitude two and a half times as many). */
export function starsOf(seed: number, width: number, height: number, count: number): Star[] {
  const random = randomStream(seed);
  return Array.from({ length: count }, () => {
    const flux = Math.min(4e6, 2400 * (1 - random()) ** -1.05);
    return { x: random() * width, y: random() * height, flux, redness: 0.15 + 0.7 * random() ** 1.3 };
  });
}

/** The point-spread of a Moffat (1969) profile: (1 + r²/α²)^−β, its integral 1. */
export interface Moffat {
  readonly fwhm: number;
  readonly beta: number;
}

export const moffatAlpha = ({ fwhm, beta }: Moffat): number => fwhm / (2 * Math.sqrt(2 ** (1 / beta) - 1));

/** Light that is weaker than this at the edge of what is laid down is left out. */
const FAINTEST = 0.15;
const WIDEST = 160;

/** Adds stars to a plane. @param light how much of its flux a star has here */
export function addStars(
  plane: Float32Array,
  width: number,
  height: number,
  stars: readonly Star[],
  psf: Moffat,
  light: (star: Star) => number
): void {
  const alpha = moffatAlpha(psf);
  const peak = (psf.beta - 1) / (Math.PI * alpha * alpha);
  for (const star of stars) {
    const flux = star.flux * light(star);
    const ratio = (flux * peak) / FAINTEST;
    if (ratio <= 1) continue;
    const reach = Math.min(WIDEST, Math.ceil(alpha * Math.sqrt(ratio ** (1 / psf.beta) - 1)));
    const [left, right] = [
      Math.max(0, Math.floor(star.x - reach)),
      Math.min(width - 1, Math.ceil(star.x + reach))
    ];
    const [top, bottom] = [
      Math.max(0, Math.floor(star.y - reach)),
      Math.min(height - 1, Math.ceil(star.y + reach))
    ];
    for (let y = top; y <= bottom; y++) {
      for (let x = left; x <= right; x++) {
        const r2 = (x - star.x) ** 2 + (y - star.y) ** 2;
        plane[y * width + x] += flux * peak * (1 + r2 / (alpha * alpha)) ** -psf.beta;
      }
    }
  }
}
