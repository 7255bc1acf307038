import vue from '@vitejs/plugin-vue'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { brotliCompressSync, constants, gzipSync } from 'node:zlib'
import { defineConfig, type Plugin } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'

/** What a page loads first is packed once, here and as small as it gets, not at every request. */
function packed(): Plugin {
  const params = { [constants.BROTLI_PARAM_QUALITY]: 11, [constants.BROTLI_PARAM_LGWIN]: 24 }
  return {
    name: 'packed',
    apply: 'build',
    writeBundle(options, bundle) {
      for (const name of Object.keys(bundle)) {
        if (!/^assets\/.*\.(wasm|js|css)$/.test(name)) continue
        const file = join(options.dir!, name)
        const source = readFileSync(file)
        writeFileSync(file + '.br', brotliCompressSync(source, { params }))
        writeFileSync(file + '.gz', gzipSync(source, { level: 9 }))
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
      includeAssets: ['mark.svg', 'icon-192.png', 'icon-512.png'],
      manifest: {
        name: 'Geminate',
        short_name: 'Geminate',
        start_url: '/',
        display: 'standalone',
        background_color: '#eef1ec',
        theme_color: '#12313a',
        icons: [
          { src: '/mark.svg', sizes: 'any', type: 'image/svg+xml', purpose: 'any' },
          { src: '/icon-192.png', sizes: '192x192', type: 'image/png', purpose: 'any' },
          { src: '/icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'any maskable' },
        ],
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
