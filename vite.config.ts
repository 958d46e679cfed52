import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

/**
 * Few files: what the head start needs, what the screens share, the editor, and each screen's own. A browser fetches six at
 * a time, and the tree itself waits in the same line.
 */
const CHUNKS = [
  {
    name: 'start',
    test: /vite\/preload-helper|valibot|\/contract\/|core\/(view-models\/(map-view|opening)|map\/(stem-path|label-id))\.ts|web\/(main|app\/(addressed|ahead|design-client|first-picture|head-start|preferences|screen-modules|theme|touring)|screens\/design\/(label-name|looks|place))\.ts/,
    priority: 3,
  },
  {
    name: 'editor',
    test: /node_modules\/(@codemirror|@lezer|codemirror|crelt|style-mod|w3c-keyname)|parts\/code-editor/,
    priority: 2,
  },
  { name: 'shared', minShareCount: 2, priority: 1 },
];

export default defineConfig({
  root: 'web',
  plugins: [react(), tailwindcss()],
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    manifest: 'manifest.json',
    chunkSizeWarningLimit: 1500,
    assetsInlineLimit: 0,
    rolldownOptions: { output: { codeSplitting: { includeDependenciesRecursively: false, groups: CHUNKS } } },
  },
  worker: { format: 'es' },
  server: {
    port: 4181,
    proxy: { '/api': { target: 'http://127.0.0.1:4180', changeOrigin: true, headers: { origin: 'http://127.0.0.1:4180' } } },
  },
});
