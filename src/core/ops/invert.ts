import { z } from 'zod';
import { defineOp } from './op';

/** 1 − x on the stored values; the neutral middle of a and b stays. */
export const invert = defineOp<object, null>({
  id: 'invert',
  title: 'Invert',
  purpose: 'Turns channels over: light becomes dark',
  words: ['negative', 'reverse', 'opposite', 'film negative'],
  remark: 'Each channel of On is turned over about its middle: a and b stay neutral where they are neutral.',
  params: z.strictObject({}),
  kind: 'plane',
  ownModel: () => 'rgb',
  sentence: () => 'Turn over',
  prepare: () => null,
  kernel({ planes, width, height }, _, out) {
    const n = width * height;
    planes.forEach((plane, c) => {
      const to = out[c];
      for (let i = 0; i < n; i++) to[i] = 1 - plane[i];
    });
  }
});
