import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

const folder = (name: string): string => fileURLToPath(new URL(`src/${name}`, import.meta.url));

export default defineConfig({
  resolve: { alias: { $core: folder('core'), $engine: folder('engine'), $storage: folder('storage') } },
  test: { include: ['src/**/*.test.ts', 'scripts/**/*.test.ts', 'demo/**/*.test.ts'], testTimeout: 60_000 }
});
