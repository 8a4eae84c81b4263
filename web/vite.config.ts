import { resolve } from 'node:path'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { guide } from './guide.ts'

const server = 'http://127.0.0.1:8700'

export default defineConfig({
  plugins: [guide(), vue()],
  resolve: { alias: { '@': resolve(import.meta.dirname, 'src') } },
  build: {
    outDir: '../src/cuejar/web',
    emptyOutDir: true,
    // Tells the pads' port which files belong to the pads.
    manifest: true,
    chunkSizeWarningLimit: 1500,
    rollupOptions: {
      input: ['index.html', 'overlay.html', 'audience.html', 'gear.html', 'pads.html'].map((page) =>
        resolve(import.meta.dirname, page),
      ),
    },
  },
  server: {
    // The guide's pictures are beside the docs.
    fs: { allow: ['..'] },
    proxy: Object.fromEntries(
      ['/api', '/media', '/overlay/'].map((path) => [
        path,
        { target: server, changeOrigin: true, ws: true, headers: { origin: server } },
      ]),
    ),
  },
})
