import { z } from 'zod';
import { encodePlane } from '../colour/code-planes';
import { idSchema } from '../document/mask';
import { readRegion } from '../raster/frame';
import { defineHead } from './head';

const schema = z.strictObject({ kind: z.literal('frame'), frame: idSchema });

/** An input image, as it was opened. */
export const frame = defineHead<z.infer<typeof schema>>({
  kind: 'frame',
  schema,
  frames: ({ frame: id }) => [{ id, path: ['frame'] }],
  uses: () => [],
  counts: () => null,
  shape({ frames: [{ encoding }] }, [{ width, height, alpha, missing, levels }]) {
    return { width, height, alpha, encoding, levels: levels.length, mayMiss: missing > 0 };
  },
  read({ frames: [{ encoding }] }, [image], __, level, out) {
    readRegion(image, level, out);
    // A file that says that it is linear, in a document that has it coded.
    if (encoding === 'coded' && image.encoding === 'linear')
      for (const plane of out.planes) encodePlane(plane, plane, out.width * out.height);
  }
});
