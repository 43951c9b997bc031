import { z } from 'zod';
import type { SkyModel } from '../measure/sky-model';
import { surfaceRows } from '../measure/surface';
import { defineOp } from './op';
import { sky, skyPlace, type SkyNeed, type SkySolution } from './sky';

const params = z.strictObject({
  /** Those of the step `sky` whose model it is. */
  how: sky.params,
  /** The model as a picture, or the objects that it spares, on black. */
  what: z.enum(['model', 'spared'])
});
type SkySeenParams = z.infer<typeof params>;

interface Coefficients extends SkySolution {
  readonly what: SkySeenParams['what'];
}

/** Whether the place of a sample is spared. */
function isSpared({ spares }: SkyModel, x: number, y: number, width: number, height: number): boolean {
  if (!spares) return false;
  const column = Math.min(spares.width - 1, Math.floor((x * spares.width) / width));
  const row = Math.min(spares.height - 1, Math.floor((y * spares.height) / height));
  return spares.marks[row * spares.width + column] === 1;
}

/** Shows what a sky step has found: no step of a document, but what stands behind the steps before one while it is looked at. */
export const skySeen = defineOp<SkySeenParams, Coefficients, SkySolution, SkyNeed>({
  id: '(sky)',
  title: 'Sky',
  purpose: 'Shows the model of a sky, or what it spares',
  words: [],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  byPlace: true,
  sentence: () => 'The sky',
  needs: ({ how }) => sky.needs!(how),
  solve: sky.solve,
  prepare: ({ what }, _, solution) => ({ ...(solution ?? { models: [], width: 1, height: 1 }), what }),
  kernel(patch, { models, what, width: w, height: h }, out) {
    const { planes, x, y, width, height, scale } = patch;
    const { u, step, lineAt } = skyPlace(patch, w, h);
    const row = new Float32Array(width);
    planes.forEach((plane, c) => {
      const fill = surfaceRows(models[c].surface, u, step, width);
      for (let line = 0; line < height; line++) {
        const from = line * width;
        if (what === 'model') {
          fill(lineAt(line), row);
          out[c].set(row, from);
        } else
          for (let i = 0; i < width; i++) {
            const spared = isSpared(models[c], (x + i + 0.5) / scale, (y + line + 0.5) / scale, w, h);
            out[c][from + i] = spared ? plane[from + i] : 0;
          }
      }
    });
  }
});
