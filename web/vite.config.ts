import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

export default defineConfig({
  // Spaces between elements on lines of their own are kept: words must not run together.
  plugins: [vue({ template: { compilerOptions: { whitespace: 'preserve' } } })],
  resolve: {
    alias: {
      '@': fileURLToPath(new URL('./src', import.meta.url)),
      '@words': fileURLToPath(new URL('../words', import.meta.url)),
    },
  },
  // emptyOutDir would take dist/.keep away, which Go's embed needs on a clone without Node.
  build: { outDir: 'dist', emptyOutDir: false, chunkSizeWarningLimit: 900 },
  server: {
    proxy: { '/api': 'http://127.0.0.1:8470' },
    fs: { allow: ['..'] },
  },
})
