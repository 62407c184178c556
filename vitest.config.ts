import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,demo,server,app,cli,scripts,tests}/**/*.test.ts'],
    globalSetup: ['tests/setup.ts'],
    setupFiles: ['tests/properties.ts'],
    env: { ESTANTE_ROOT: process.cwd() },
    testTimeout: 240_000,
    hookTimeout: 240_000,
    pool: 'forks',
    maxWorkers: 2,
  },
})
