import { resolve } from 'node:path'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue()],
  resolve: { alias: { '@': resolve(import.meta.dirname, 'src') } },
  test: { environment: 'happy-dom', include: ['src/**/*.test.ts'], restoreMocks: true, unstubGlobals: true },
})
