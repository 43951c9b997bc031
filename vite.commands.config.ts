import { defineConfig } from 'vite';
import { commands } from './scripts/commands.mjs';

/** The headless commands, the server, and the thread that computes for them, side by side in one folder. */
export default defineConfig({
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
