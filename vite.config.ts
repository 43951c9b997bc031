import { sveltekit } from '@sveltejs/kit/vite';
import { defineConfig, type Plugin } from 'vite';
import { isolationHeaders } from './src/server/headers.ts';

/** Carbon's style sheet names fonts on an outside host; the application ships its own. */
const withoutForeignFonts: Plugin = {
  name: 'without-foreign-fonts',
  enforce: 'pre',
  transform(code, id) {
    if (!/carbon-components-svelte\/css\/.*\.css/.test(id)) return null;
    return { code: code.replace(/@font-face\s*\{[^}]*\}/g, ''), map: null };
  }
};

export default defineConfig({
  plugins: [withoutForeignFonts, sveltekit()],
  server: { headers: isolationHeaders },
  preview: { headers: isolationHeaders },
  worker: { format: 'es' },
  build: { target: 'es2022', chunkSizeWarningLimit: 2000 }
});
