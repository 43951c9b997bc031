import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseDocument } from '../src/core/document';
import { fileFormats } from '../src/core/files';
import { packBundle } from '../src/core/files/bundle';
import { skyOf } from '../src/core/measure/sky';
import { liftFor } from '../src/core/path/lift';
import { midtone } from '../src/core/ops/stretch';
import { resample } from '../src/core/raster/resample';
import { provideNodeWasm } from '../src/engine/node/wasm';
import { smallFile, type SampleInfo } from './list';
import type { Exposed } from './sky/expose';
import { finishedDocument } from './sky/finished';
import { FRAME_HEIGHT, FRAME_WIDTH } from './sky/frames';
import { taken } from './sky/taken';

const SMALL_WIDTH = 480;

/** Renders the frames of a session with their truth beside them, and its small picture. */
export async function makeFrames(
  id: 'lantern' | 'quern',
  { files, ...sample }: Pick<SampleInfo, 'id' | 'files'>,
  folder: string
): Promise<void> {
  provideNodeWasm();
  mkdirSync(folder, { recursive: true });
  const found = taken(id);
  const written = found.map(({ file }, i) => {
    writeFileSync(join(folder, files[i]), file);
    return new Blob([new Uint8Array(file)]);
  });
  const document = parseDocument(finishedDocument(id));
  const frames = new Map(document.frames.map((frame, i) => [frame.id, written[i]]));
  const bundle = await packBundle({ document, files: frames });
  writeFileSync(join(folder, `${id}-finished.kromba`), new Uint8Array(await bundle.arrayBuffer()));
  writeFileSync(join(folder, `${id}.truth.json`), JSON.stringify(found.map(({ truth }) => truth)));
  await small(found, FRAME_WIDTH, FRAME_HEIGHT, join(folder, smallFile({ id: sample.id })));
}

/** A small JPEG as the eye sees it lifted: of three lines the usual colours of each, of broad bands their own. */
async function small(found: readonly Exposed[], width: number, height: number, path: string): Promise<void> {
  const [r, g, b] = found.length === 3 ? found : found.slice(1, 4);
  const planes = [r, g, b].map(({ samples }) => {
    const plane = Float32Array.from(samples, (v) => v / 65535);
    const { black, middle } = liftFor([skyOf(plane)], 'lifted', false);
    return plane.map((v) =>
      Math.min(1, Math.max(0, midtone(middle[0], Math.max(0, (v - black[0]) / (1 - black[0])))))
    );
  });
  const pixels = Uint8Array.from(
    { length: 3 * width * height },
    (_, i) => 255 * planes[i % 3][Math.floor(i / 3)] + 0.5
  );
  const smallHeight = Math.round((SMALL_WIDTH * height) / width);
  const writer = fileFormats.find((f) => f.id === 'jpeg')!;
  const image = {
    ...{ width: SMALL_WIDTH, height: smallHeight, alpha: false },
    samples: resample(pixels, width, height, 3, SMALL_WIDTH, smallHeight)
  };
  writeFileSync(path, await writer.write(image, { quality: 90 }));
}

const [id, folder] = process.argv.slice(2);
if (id === 'lantern' || id === 'quern') {
  const { samples } = await import('./list');
  await makeFrames(
    id,
    samples.find((sample) => sample.id === id)!,
    folder
  );
}
