import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import { brotliCompressSync, constants, gzipSync } from 'node:zlib'
import { defineConfig, type Plugin } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'

/** The core is megabytes of one file: it is packed once, here, not at every request. */
function packed(): Plugin {
  return {
    name: 'packed',
    apply: 'build',
    generateBundle(_options, bundle) {
      for (const [name, file] of Object.entries(bundle)) {
        if (file.type !== 'asset' || !name.endsWith('.wasm')) continue
        const params = { [constants.BROTLI_PARAM_QUALITY]: 10, [constants.BROTLI_PARAM_LGWIN]: 24 }
        this.emitFile({ type: 'asset', fileName: name + '.br', source: brotliCompressSync(file.source, { params }) })
        this.emitFile({ type: 'asset', fileName: name + '.gz', source: gzipSync(file.source, { level: 9 }) })
      }
    },
  }
}

export default defineConfig({
  plugins: [
    // Spaces between elements on lines of their own are kept: words must not run together.
    vue({ template: { compilerOptions: { whitespace: 'preserve' } } }),
    packed(),
    // Opens with no server to be reached; a new version is offered and never forced.
    VitePWA({
      registerType: 'prompt',
      injectRegister: false,
      includeAssets: ['mark.svg'],
      manifest: {
        name: 'Geminate',
        short_name: 'Geminate',
        start_url: '/',
        display: 'standalone',
        background_color: '#eef1ec',
        theme_color: '#12313a',
        icons: [{ src: '/mark.svg', sizes: 'any', type: 'image/svg+xml', purpose: 'any' }],
      },
      workbox: {
        globPatterns: ['**/*.{js,css,html,svg,woff2,wasm}'],
        maximumFileSizeToCacheInBytes: 16 << 20,
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//, /^\/health/],
        cleanupOutdatedCaches: true,
      },
    }),
  ],
  resolve: {
    alias: {
      '@': fileURLToPath(new URL('./src', import.meta.url)),
      '@words': fileURLToPath(new URL('../words', import.meta.url)),
    },
  },
  worker: { format: 'es' },
  // emptyOutDir would take dist/.keep away, which Go's embed needs on a clone without Node.
  build: { outDir: 'dist', emptyOutDir: false, chunkSizeWarningLimit: 900 },
  server: {
    proxy: { '/api': 'http://127.0.0.1:8470' },
    fs: { allow: ['..'] },
  },
})
