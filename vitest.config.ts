import { fileURLToPath } from 'node:url';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vitest/config';

const folder = (name: string): string => fileURLToPath(new URL(`src/${name}`, import.meta.url));

/** What keeps nothing, and puts nothing in the place of a module or of what the browser has. */
const TOGETHER = [
  'src/{core,engine,server}/**/*.test.ts',
  'src/ui/*.test.ts',
  'src/ui/{graph,many,path,where,work-pane}/*.test.ts',
  'src/ui/bench/{additions,bracket,hand,newest}.test.ts',
  'demo/**/*.test.ts'
];
/** What of it looks at memory. */
const OF_MEMORY = ['src/core/files/hostile.test.ts', 'src/core/kernels/arena.test.ts'];

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
        test: { name: 'together', include: TOGETHER, exclude: OF_MEMORY, isolate: false }
      },
      {
        extends: true,
        test: { name: 'alone', include: ['src/**/*.test.ts', 'scripts/**/*.test.ts'], exclude: TOGETHER }
      },
      {
        extends: true,
        test: { name: 'of memory', include: OF_MEMORY }
      }
    ],
    setupFiles: ['src/core/kernels/fail-where-short.ts'],
    testTimeout: 120_000,
    hookTimeout: 120_000
  }
});
