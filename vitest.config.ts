import { fileURLToPath } from 'node:url';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vitest/config';

const folder = (name: string): string => fileURLToPath(new URL(`src/${name}`, import.meta.url));

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
    include: ['src/**/*.test.ts', 'scripts/**/*.test.ts', 'demo/**/*.test.ts'],
    setupFiles: ['src/core/kernels/fail-where-short.ts'],
    // It would leave one core to nobody: there is no watching here.
    maxWorkers: '100%',
    testTimeout: 120_000,
    hookTimeout: 120_000
  }
});
