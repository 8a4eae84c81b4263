import { resolve } from 'node:path'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'
import { guide } from './guide.ts'

export default defineConfig({
  plugins: [guide(), vue()],
  server: { fs: { allow: ['..'] } },
  resolve: { alias: { '@': resolve(import.meta.dirname, 'src') } },
  test: {
    environment: 'happy-dom',
    include: ['src/**/*.test.ts'],
    restoreMocks: true,
    unstubGlobals: true,
    // What decides something is tested here; pages are, in a browser.
    coverage: {
      include: ['src/logic/**/*.ts', 'src/overlay/**/*.ts', 'src/controls/**/*.ts', 'src/beats/**/*.ts'],
      exclude: ['**/*.test.ts', '**/types.ts', '**/main.ts', '**/check.ts', '**/fake*.ts'],
      reporter: [['text', { skipFull: true }]],
      thresholds: { lines: 80, branches: 74 },
    },
  },
})
