import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileFormats } from '../src/core/files';
import type { Samples } from '../src/core/raster/frame';
import { resample } from '../src/core/raster/resample';
import { provideNodeWasm } from '../src/engine/node/wasm';
import { develop } from './camera';
import { smallFile } from './list';
import { SAMPLE_HEIGHT, SAMPLE_WIDTH, sampleShot } from './samples';
import { trace } from './trace';

const SMALL_WIDTH = 480;

/** Renders one sample and its small picture: `make-sample ID FOLDER [SCALE]`. */
const [id, folder, scale = '1'] = process.argv.slice(2);
const sample = sampleShot(id);
provideNodeWasm();
const width = Math.round(SAMPLE_WIDTH * Number(scale));
const height = Math.round(SAMPLE_HEIGHT * Number(scale));
const coded = develop(trace(sample.scene, width, height), width, height, sample.camera);
sample.finish?.(coded, width, height);
const deep = sample.format === 'png';
const values = deep
  ? Uint16Array.from(coded, (v) => v * 65535 + 0.5)
  : Uint8Array.from(coded, (v) => v * 255 + 0.5);
const write = async (
  name: string,
  format: 'jpeg' | 'png',
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
await write(sample.file, sample.format, width, height, values);
const smallHeight = Math.round((SMALL_WIDTH * height) / width);
const eight = Uint8Array.from(coded, (v) => v * 255 + 0.5);
await write(
  smallFile(sample),
  'jpeg',
  SMALL_WIDTH,
  smallHeight,
  resample(eight, width, height, 3, SMALL_WIDTH, smallHeight)
);
