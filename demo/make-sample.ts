import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileFormats } from '../src/core/files';
import type { Samples } from '../src/core/raster/frame';
import { resample } from '../src/core/raster/resample';
import { provideNodeWasm } from '../src/engine/node/wasm';
import { develop, moved } from './camera';
import { smallFile, type SampleInfo } from './list';
import { SAMPLE_HEIGHT, SAMPLE_WIDTH, sampleShot } from './samples';
import { trace } from './trace';

const SMALL_WIDTH = 480;

/** Renders one sample and its small picture: `make-sample ID FOLDER [SCALE]`. */
const [id, folder, scale = '1'] = process.argv.slice(2);
const sample = sampleShot(id);
provideNodeWasm();
const width = Math.round(SAMPLE_WIDTH * Number(scale));
const height = Math.round(SAMPLE_HEIGHT * Number(scale));
const light = trace(sample.scene, width, height);
const { camera, exposures = [{ gain: 1, moved: [0, 0] as const }] } = sample;
const frames = exposures.map(({ gain, moved: by }, i) => {
  const [dx, dy] = by.map((v) => v * Number(scale));
  const seen = dx || dy ? moved(light, width, height, [dx, dy]) : light;
  const taken = { ...camera, exposure: camera.exposure * gain, seed: camera.seed + 100 * i };
  const coded = develop(seen, width, height, taken);
  sample.finish?.(coded, width, height);
  return coded;
});
const write = async (
  name: string,
  format: SampleInfo['format'],
  width: number,
  height: number,
  samples: Samples
): Promise<void> => {
  const writer = fileFormats.find((f) => f.id === format)!;
  await writeFile(
    join(folder, name),
    await writer.write({ width, height, alpha: false, samples }, { quality: 93 })
  );
};
const eightBit = (coded: Float32Array): Uint8Array => Uint8Array.from(coded, (v) => v * 255 + 0.5);
for (const [i, coded] of frames.entries()) {
  const values = sample.format === 'png' ? Uint16Array.from(coded, (v) => v * 65535 + 0.5) : eightBit(coded);
  await write(sample.files[i], sample.format, width, height, values);
}
const middle = eightBit(frames[frames.length >> 1]);
const smallHeight = Math.round((SMALL_WIDTH * height) / width);
await write(
  smallFile(sample),
  'jpeg',
  SMALL_WIDTH,
  smallHeight,
  resample(middle, width, height, 3, SMALL_WIDTH, smallHeight)
);
