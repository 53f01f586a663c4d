import vue from '@vitejs/plugin-vue'
import vuetify from 'vite-plugin-vuetify'
import { fileURLToPath } from 'node:url'
import type { Plugin } from 'vite'
import { defineConfig } from 'vitest/config'

/** Every browser that can show the interface reads WOFF2: the fonts' older form is left out. */
const oneFontFormat: Plugin = {
  name: 'one-font-format',
  enforce: 'pre',
  transform: (code, id) => (id.includes('@fontsource') && id.endsWith('.css') ? code.replace(/,\s*url\([^)]+\.woff\)\s*format\(['"]woff['"]\)/g, '') : undefined),
}

export default defineConfig({
  plugins: [oneFontFormat, vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  server: { proxy: { '/api': 'http://127.0.0.1:8642', '/healthz': 'http://127.0.0.1:8642' } },
  build: { chunkSizeWarningLimit: 1600 },
  test: { environment: 'node' },
})
