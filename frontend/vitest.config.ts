import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue()],
  test: {
    environment: 'happy-dom',
    environmentOptions: { happyDOM: { url: 'http://127.0.0.1/' } },
    include: ['tests/**/*.test.ts'],
    setupFiles: ['tests/setup.ts'],
    env: { TZ: 'UTC' },
    // Files share a page and their modules: making one for each took most of the time.
    isolate: false,
    pool: 'threads',
    maxWorkers: 2,
    testTimeout: 60_000,
  },
})
