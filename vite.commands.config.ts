import { defineConfig } from 'vite';
import { commands } from './scripts/commands.mjs';

/** What brings files of its own along, or is seldom needed; all else is read at once, as a hundred small files take as long as the work. */
const APART = [
  ...['webp', 'avif', 'jxl', 'jpeg'].map((codec) => `@jsquash/${codec}`),
  ...['jxl-oxide-wasm', 'lcms-wasm', 'geotiff', 'exifr', '@zip.js/zip.js', 'busboy', 'bullmq', 'ioredis']
];

/** The headless commands, the server, and the thread that computes for them, side by side in one folder. */
export default defineConfig({
  ssr: { noExternal: true, external: APART },
  build: {
    ssr: true,
    target: 'node20',
    copyPublicDir: false,
    rolldownOptions: {
      input: {
        ...Object.fromEntries(commands.map((name) => [name, `scripts/${name}.ts`])),
        serving: 'scripts/serving.ts',
        thread: 'src/engine/node/worker.ts'
      },
      output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' }
    }
  }
});
