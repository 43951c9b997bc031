import { z } from 'zod';
import { skyModel, type SkyModel } from '../measure/sky-model';
import { surfaceRows } from '../measure/surface';
import { shown } from './controls';
import { places, said, unit } from './fields';
import { defineOp, type Patch, type Solving } from './op';

const bounded = (least: number, most: number, what: string): z.ZodNumber =>
  z
    .number({ error: 'must be a number' })
    .min(least, `must be at least ${least}${what}`)
    .max(most, `must be at most ${most}${what}`);

const params = z.strictObject({
  model: z.enum(['polynomial', 'smooth']).default('polynomial'),
  degree: z
    .int('must be a whole number')
    .min(1, 'must be at least 1')
    .max(6, 'must be at most 6')
    .register(shown, { label: 'degree', unit: '', step: 1, grain: 1, digits: 0, slider: [1, 5] })
    .default(2),
  size: bounded(10, 1000, ' thousandths')
    .register(shown, { label: 'smallest thing', unit: '', slider: [20, 500], log: true, digits: 0, step: 10 })
    .default(200),
  stiffness: unit().register(shown, { label: 'stiffness', unit: '%', worth: 0.01 }).default(0.5),
  spare: z
    .strictObject({
      above: bounded(0.1, 100, ' σ')
        .register(shown, { label: 'objects above', unit: '', slider: [0.5, 10], step: 0.1, digits: 1 })
        .default(2),
      grow: bounded(0, 1000, ' px')
        .register(shown, { label: 'and about them', unit: 'px', slider: [0, 100], step: 1 })
        .default(12),
      rounds: z
        .int('must be a whole number')
        .min(1, 'must be at least 1')
        .max(10, 'must be at most 10')
        .register(shown, { label: 'rounds', unit: '', step: 1, grain: 1, digits: 0 })
        .default(3)
    })
    .nullable()
    .default(null),
  correct: z.enum(['subtract', 'divide']).default('subtract'),
  /** One model for all channels. */
  together: z.boolean().default(false),
  added: places,
  removed: places
});
export type SkyParams = z.infer<typeof params>;

export type SkyNeed = Omit<SkyParams, 'correct'>;

interface SkyCoefficients {
  readonly models: readonly SkyModel[];
  readonly divides: boolean;
  readonly width: number;
  readonly height: number;
}
export interface SkySolution {
  readonly models: readonly SkyModel[];
  readonly width: number;
  readonly height: number;
}

/** Where the samples of a patch stand on a surface over a picture of `w` × `h` pixels: u of the first, from one to the next, v of a line. */
export function skyPlace(
  { x, y, scale }: Pick<Patch, 'x' | 'y' | 'scale'>,
  w: number,
  h: number
): { readonly u: number; readonly step: number; lineAt(line: number): number } {
  const half = Math.max(w, h) / 2;
  return {
    u: ((x + 0.5) / scale - w / 2) / half,
    step: 1 / scale / half,
    lineAt: (line) => ((y + line + 0.5) / scale - h / 2) / half
  };
}

const isSame = (a: Float32Array, b: Float32Array): boolean => a.every((v, i) => v === b[i] || v !== v);

/** x − model + mean(model), or x·mean(model)/model: the uneven part of the sky goes, its level stays. */
export const sky = defineOp<SkyParams, SkyCoefficients, SkySolution, SkyNeed>({
  id: 'sky',
  title: 'Even sky',
  purpose: 'Takes out the gradient of the sky under stars and objects',
  words: [
    'gradient',
    'background',
    'light pollution',
    'vignette',
    'flat',
    'uneven',
    'glow',
    'astro',
    'moonlight'
  ],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  byPlace: true,
  sentence({ model, degree, size, correct, spare }) {
    const how = model === 'polynomial' ? `of degree ${degree}` : `that follows things of ${said(size, 0)} ‰`;
    const done = correct === 'divide' ? 'Divide by' : 'Take off';
    return `${done} a sky ${how}${spare ? ', objects spared' : ''}`;
  },
  needs: ({ correct: _, ...need }) => need,
  *solve(how, { analysis, size }): Solving<SkySolution> {
    const { planes, width, height } = yield* analysis();
    const scale = size.width / width;
    const all = how.together ? [planes[0].map((v, i) => (v + planes[1][i] + planes[2][i]) / 3)] : planes;
    const models: SkyModel[] = [];
    for (const [c, samples] of all.entries()) {
      // The channels of a grey picture are one.
      if (c > 0 && isSame(all[c - 1], samples)) {
        models.push(models[c - 1]);
        continue;
      }
      const finding = skyModel({ samples, width, height, scale }, how);
      let step = finding.next();
      for (; !step.done; step = finding.next()) yield c / all.length;
      models.push(step.value);
    }
    return { models: how.together ? [models[0], models[0], models[0]] : models, ...size };
  },
  prepare: ({ correct }, _, solution) => ({
    ...(solution ?? { models: [], width: 1, height: 1 }),
    divides: correct === 'divide'
  }),
  // What is spared, sample for sample, is more than a panel needs.
  solved: ({ models }) => ({ models: models.map((model) => ({ ...model, spares: null })) }),
  kernel(patch, { models, divides, width: w, height: h }, out) {
    const { planes, width, height } = patch;
    const { u, step, lineAt } = skyPlace(patch, w, h);
    const row = new Float32Array(width);
    // The channels of a grey picture have one model.
    const isOwn = planes.map((_, c) => models[c] !== models[c - 1]);
    const fills = planes.map((_, c) => (isOwn[c] ? surfaceRows(models[c].surface, u, step, width) : null));
    for (let line = 0; line < height; line++) {
      const [from, v] = [line * width, lineAt(line)];
      planes.forEach((plane, c) => {
        fills[c]?.(v, row);
        const { mean } = models[c];
        const into = out[c];
        if (divides)
          for (let i = 0, k = from; i < width; i++, k++)
            into[k] = row[i] > 0 ? (plane[k] * mean) / row[i] : plane[k];
        else for (let i = 0, k = from; i < width; i++, k++) into[k] = plane[k] - row[i] + mean;
      });
    }
  }
});
