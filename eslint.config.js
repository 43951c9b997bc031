import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

/** What each layer may not import: core ← engine ← storage and ui ← routes; engine ← server. */
const above = {
  core: ['engine', 'storage', 'ui', 'routes', 'server'],
  engine: ['storage', 'ui', 'routes', 'server'],
  storage: ['ui', 'routes', 'server'],
  ui: ['routes', 'server'],
  server: ['storage', 'ui', 'routes']
};

/** @param {string} layer @param {string[]} forbidden @param {string[]} [extra] */
const layer = (layer, forbidden, extra = []) => ({
  files: [`src/${layer}/**/*.ts`, `src/${layer}/**/*.svelte`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          {
            group: forbidden.flatMap((name) => [`**/${name}/**`, `$${name}/**`, `$${name}`]).concat(extra),
            message: `src/${layer} imports only what stands below it.`
          }
        ]
      }
    ]
  }
});

export default ts.config(
  {
    ignores: [
      'build/',
      '.cache/',
      '.svelte-kit/',
      'node_modules/',
      'demo/samples/',
      'static/',
      'test-results/',
      'src/core/kernels/assembly/'
    ]
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: { ...globals.browser, ...globals.node } },
    rules: {
      'no-undef': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'svelte/no-navigation-without-resolve': 'off',
      'svelte/prefer-svelte-reactivity': 'off'
    }
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig } }
  },
  layer('core', above.core, ['svelte', 'svelte/**', 'node:*', 'idb', '$app/**', '$lib/**']),
  layer('engine', above.engine, ['svelte', 'svelte/**', 'idb', '$app/**']),
  layer('storage', above.storage, ['svelte', 'svelte/**']),
  layer('ui', above.ui),
  layer('server', above.server, ['svelte', 'svelte/**', 'idb', '$app/**'])
);
