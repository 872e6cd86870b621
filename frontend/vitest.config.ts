import { fileURLToPath } from 'node:url'
import { defineConfig, mergeConfig } from 'vitest/config'

import vite from './vite.config.ts'

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url))

/** What has logic of its own is tried without a browser; pages are tried in one, by pytest. */
export default mergeConfig(
  vite,
  defineConfig({
    resolve: {
      alias: {
        '@probe': here('../probe/src'),
        'dom-accessibility-api': here('./node_modules/dom-accessibility-api'),
      },
    },
    test: { environment: 'jsdom', include: ['tests/**/*.test.ts'], restoreMocks: true },
  }),
)
