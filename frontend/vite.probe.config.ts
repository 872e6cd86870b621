import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url))

export default defineConfig({
  root: here('../probe'),
  resolve: { alias: { 'dom-accessibility-api': here('./node_modules/dom-accessibility-api') } },
  build: {
    outDir: here('../src/lantern/browser'),
    emptyOutDir: false,
    target: 'chrome110',
    lib: {
      entry: here('../probe/src/main.ts'),
      formats: ['iife'],
      name: 'lanternProbe',
      fileName: () => 'probe.js',
    },
  },
})
