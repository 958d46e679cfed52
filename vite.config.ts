import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  root: 'web',
  plugins: [react(), tailwindcss()],
  build: { outDir: '../dist/web', emptyOutDir: true, chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
  worker: { format: 'es' },
  server: {
    port: 4181,
    proxy: { '/api': { target: 'http://127.0.0.1:4180', changeOrigin: true, headers: { origin: 'http://127.0.0.1:4180' } } },
  },
});
