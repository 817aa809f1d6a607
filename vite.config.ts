import { fileURLToPath } from 'node:url';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

/** Two entries, so that a member never downloads the builder. */
export default defineConfig({
  root: at('./web'),
  plugins: [react(), tailwindcss()],
  build: {
    outDir: at('./dist/web'),
    emptyOutDir: true,
    manifest: true,
    // A data: address would need a wider Content-Security-Policy.
    assetsInlineLimit: 0,
    // A browser that doesn't know it loads the parts as they are asked for.
    modulePreload: { polyfill: false },
    rollupOptions: { input: { builder: at('./web/builder.html'), portal: at('./web/portal.html') } },
  },
});
