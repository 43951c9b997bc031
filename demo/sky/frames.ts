import { lantern, quern } from './objects';
import type { Exposing } from './expose';
import { starsOf, type Star } from './stars';

export const FRAME_WIDTH = 2400;
export const FRAME_HEIGHT = 1600;

/** One object as it was taken through several filters. */
export interface Session {
  readonly object: string;
  readonly date: string;
  readonly exposures: readonly Exposing[];
}

const redder = (star: Star): number => 0.35 + 1.3 * star.redness;
const bluer = (star: Star): number => 1.65 - 1.3 * star.redness;

/** Frames as they come from the little observatory, at a size; the whole one is FRAME_WIDTH × FRAME_HEIGHT. */
export function sessionOf(id: 'lantern' | 'quern', width = FRAME_WIDTH, height = FRAME_HEIGHT): Session {
  const parts = (width * height) / (FRAME_WIDTH * FRAME_HEIGHT);
  if (id === 'lantern') {
    const stars = starsOf(501, width, height, Math.round(3400 * parts));
    const common = { seconds: 14_400, stars, gain: 0.22, readNoise: 5, hot: Math.round(60 * parts) };
    const line = (filter: 'S' | 'H' | 'O'): Pick<Exposing, 'filter' | 'glow'> => ({
      filter,
      glow: lantern(filter, width, height)
    });
    return {
      object: 'Lantern',
      date: '2026-02-11T21:40:00',
      exposures: [
        {
          ...common,
          ...line('S'),
          ...{ strength: 520, sky: 620, gradient: [0, 70, -35, 22, 10, 0], lines: 4, seed: 61 },
          psf: { fwhm: 3.1, beta: 3 },
          starlight: (s) => 0.16 * redder(s)
        },
        {
          ...common,
          ...line('H'),
          ...{ strength: 2100, sky: 540, gradient: [0, -40, 60, 0, -18, 25], lines: 3, seed: 62 },
          psf: { fwhm: 2.9, beta: 3 },
          starlight: (s) => 0.18 * redder(s)
        },
        {
          ...common,
          ...line('O'),
          ...{ strength: 760, sky: 910, gradient: [0, 120, 90, 40, 30, -20], lines: 5, seed: 63 },
          psf: { fwhm: 3.4, beta: 3 },
          starlight: (s) => 0.2 * bluer(s),
          trail: { from: [0.08, 0.1], to: [0.95, 0.66], light: 160 }
        }
      ]
    };
  }
  const stars = starsOf(777, width, height, Math.round(2000 * parts));
  const common = { stars, gain: 0.2, readNoise: 5, hot: Math.round(50 * parts), lines: 0 };
  const through = (filter: 'L' | 'R' | 'G' | 'B' | 'H'): Pick<Exposing, 'filter' | 'glow'> => ({
    filter,
    glow: quern(filter, width, height)
  });
  return {
    object: 'Quern',
    date: '2026-04-03T22:15:00',
    exposures: [
      {
        ...common,
        ...through('L'),
        ...{ seconds: 10_800, strength: 5200, sky: 1500, gradient: [0, 160, 90, 30, 0, 25], seed: 71 },
        psf: { fwhm: 3, beta: 3.2 },
        starlight: () => 1
      },
      {
        ...common,
        ...through('R'),
        ...{ seconds: 5400, strength: 2000, sky: 760, gradient: [0, 95, 40, 18, 8, 0], seed: 72 },
        psf: { fwhm: 3.2, beta: 3.2 },
        starlight: (s) => 0.33 * redder(s),
        trail: { from: [0.2, 0.95], to: [0.9, 0.02], light: 210 }
      },
      {
        ...common,
        ...through('G'),
        ...{ seconds: 5400, strength: 1900, sky: 830, gradient: [0, 80, 62, 0, 12, 10], seed: 73 },
        psf: { fwhm: 3.2, beta: 3.2 },
        starlight: () => 0.33
      },
      {
        ...common,
        ...through('B'),
        ...{ seconds: 5400, strength: 1700, sky: 900, gradient: [0, 60, 95, -12, 0, 22], seed: 74 },
        psf: { fwhm: 3.5, beta: 3.2 },
        starlight: (s) => 0.33 * bluer(s)
      },
      {
        ...common,
        ...through('H'),
        ...{ seconds: 9000, strength: 900, sky: 430, gradient: [0, -45, 30, 10, 0, 0], seed: 75, lines: 6 },
        psf: { fwhm: 2.9, beta: 3.2 },
        starlight: (s) => 0.07 * redder(s)
      }
    ]
  };
}
