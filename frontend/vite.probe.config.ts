import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url))

/** The probe itself, and what of it exported scripts carry along. */
const BUNDLES = {
  production: ['main.ts', 'browser', 'lanternProbe', 'probe.js'],
  script: ['looking.ts', 'exchange/script', 'lanternLook', 'look.js'],
} as const

export default defineConfig(({ mode }) => {
  const [entry, folder, name, file] = BUNDLES[mode as keyof typeof BUNDLES]
  return {
    root: here('../probe'),
    resolve: { alias: { 'dom-accessibility-api': here('./node_modules/dom-accessibility-api') } },
    build: {
      outDir: here(`../src/lantern/${folder}`),
      emptyOutDir: false,
      target: 'chrome110',
      lib: { entry: here(`../probe/src/${entry}`), formats: ['iife'], name, fileName: () => file },
    },
  }
})
