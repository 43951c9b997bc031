import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  kit: {
    // Packing all of it takes half of the build's time. It is served to this machine; on any other its shared memory wants https, and what
    // stands in front of it for that packs as well.
    adapter: adapter({ precompress: false }),
    // Scripts by their hashes alone; styles are set on elements by the components. Nothing is asked of another origin.
    csp: {
      mode: 'hash',
      directives: {
        'default-src': ['none'],
        'script-src': ['self', 'wasm-unsafe-eval'],
        'style-src': ['self', 'unsafe-inline'],
        'img-src': ['self', 'blob:', 'data:'],
        'font-src': ['self', 'data:'],
        'connect-src': ['self', 'blob:'],
        'worker-src': ['self'],
        'base-uri': ['none'],
        'form-action': ['none'],
        'frame-ancestors': ['none']
      }
    },
    alias: { $core: 'src/core', $engine: 'src/engine', $storage: 'src/storage', $ui: 'src/ui' }
  }
};
