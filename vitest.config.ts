import { fileURLToPath } from 'node:url';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

const folder = (name: string): string => fileURLToPath(new URL(`src/${name}`, import.meta.url));

/** What keeps nothing, and puts nothing in the place of a module or of what the browser has. */
const TOGETHER = [
  'src/{core,engine,server}/**/*.test.ts',
  'src/ui/*.test.ts',
  'src/ui/{graph,many,path,where,work-pane}/*.test.ts',
  'demo/**/*.test.ts'
];
/** What of it looks at memory. */
const OF_MEMORY = ['src/core/files/hostile.test.ts', 'src/core/kernels/arena.test.ts'];

/** What takes long though its file is small: the others fill up all workers to the end. */
const LONG = ['demo/denoise.test.ts'];
class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const isLong = ({ moduleId }: TestSpecification): boolean => LONG.some((name) => moduleId.endsWith(name));
    const sorted = await super.sort(files);
    return [...sorted.filter(isLong), ...sorted.filter((file) => !isLong(file))];
  }
}

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
    sequence: { sequencer: LongestFirst },
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
