import { resolve } from 'node:path'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'
import { guide } from './guide.ts'

export default defineConfig({
  plugins: [guide(), vue()],
  server: { fs: { allow: ['..'] } },
  resolve: { alias: { '@': resolve(import.meta.dirname, 'src') } },
  test: { environment: 'happy-dom', include: ['src/**/*.test.ts'], restoreMocks: true, unstubGlobals: true },
})
