import { svelte } from '@sveltejs/vite-plugin-svelte';
import { optimizeImports } from 'carbon-preprocess-svelte';
import type { Plugin } from 'vite';
import { defineConfig } from 'vitest/config';

/** Carbon's styles name fonts on a server elsewhere; ours ship with the page, so those rules go. */
function withoutForeignFonts(): Plugin {
  return {
    name: 'without-foreign-fonts',
    enforce: 'pre',
    transform(code, id) {
      if (!id.includes('carbon-components-svelte') || !id.split('?')[0]?.endsWith('.css')) return null;
      return { code: code.replace(/@font-face\s*\{[^}]*\}/g, ''), map: null };
    },
  };
}

export default defineConfig({
  base: './', // the page may lie below a path, behind a proxy
  plugins: [withoutForeignFonts(), svelte({ preprocess: [optimizeImports()] })],
  test: { environment: 'node' },
  build: { target: 'es2022', assetsInlineLimit: 0, chunkSizeWarningLimit: 1500 },
});
