import { writeFile } from 'node:fs/promises';
import { fileFormats } from '../src/core/files';
import { provideNodeWasm } from '../src/engine/node/wasm';
import { develop } from './camera';
import { SAMPLE_HEIGHT, SAMPLE_WIDTH, samples } from './samples';
import { trace } from './trace';

/** Renders one sample: `make-sample ID FILE [SCALE]`. */
const [id, path, scale = '1'] = process.argv.slice(2);
const sample = samples.find((s) => s.id === id);
if (!sample) throw new Error(`There is no sample ${id}.`);
provideNodeWasm();
const width = Math.round(SAMPLE_WIDTH * Number(scale));
const height = Math.round(SAMPLE_HEIGHT * Number(scale));
const coded = develop(trace(sample.scene, width, height), width, height, sample.camera);
const deep = sample.format === 'png';
const values = deep
  ? Uint16Array.from(coded, (v) => v * 65535 + 0.5)
  : Uint8Array.from(coded, (v) => v * 255 + 0.5);
const format = fileFormats.find((f) => f.id === sample.format)!;
await writeFile(path, await format.write({ width, height, alpha: false, samples: values }, { quality: 93 }));
