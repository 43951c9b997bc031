import { fileURLToPath } from 'node:url';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vitest/config';

const folder = (name: string): string => fileURLToPath(new URL(`src/${name}`, import.meta.url));

/** What computes alone, and keeps nothing. */
const COMPUTING = ['src/core/**/*.test.ts', 'demo/**/*.test.ts'];
/** What of it looks at memory. */
const ALONE = ['src/core/files/hostile.test.ts', 'src/core/kernels/arena.test.ts'];

export default defineConfig({
  plugins: [svelte()],
  resolve: {
    alias: {
      $core: folder('core'),
      $engine: folder('engine'),
      $storage: folder('storage'),
      $ui: folder('ui')
    }
  },
  test: {
    // It would leave one core to nobody: there is no watching here.
    maxWorkers: '100%',
    projects: [
      {
        extends: true,
        // Its modules are read once, and not by each file anew.
        test: { name: 'computing', include: COMPUTING, exclude: ALONE, isolate: false }
      },
      {
        extends: true,
        test: { name: 'alone', include: [...ALONE, 'src/!(core)/**/*.test.ts', 'scripts/**/*.test.ts'] }
      }
    ],
    setupFiles: ['src/core/kernels/fail-where-short.ts'],
    testTimeout: 120_000,
    hookTimeout: 120_000
  }
});
