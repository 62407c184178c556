export default defineNuxtConfig({
  modules: ['@nuxt/eslint', '@nuxt/ui', '@pinia/nuxt', '@vueuse/nuxt'],
  ssr: false,
  spaLoadingTemplate: true,
  telemetry: false,
  compatibilityDate: '2026-11-01',
  devtools: { enabled: false },
  css: ['~/assets/css/main.css'],
  ui: { fonts: false },
  icon: { provider: 'server', fallbackToApi: false, serverBundle: { collections: ['lucide'] }, clientBundle: { scan: true } },
  eslint: { config: { standalone: true } },
  colorMode: { preference: 'system', fallback: 'light' },
  app: {
    head: {
      title: 'Estante',
      htmlAttrs: { lang: 'en' },
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/mark.svg' }],
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
    },
  },
  vite: {
    worker: { format: 'es' },
    optimizeDeps: {
      include: [
        'd3',
        'yup',
        'decimal.js',
        'date-fns',
        '@lezer/lr',
        'drizzle-orm',
        'drizzle-orm/pg-core',
        'linebreak',
        'fast-xml-parser',
        '@atlaskit/pragmatic-drag-and-drop/element/adapter',
      ],
    },
    build: { chunkSizeWarningLimit: 1500 },
  },
  nitro: {
    plugins: ['../plugins.ts'],
    typescript: { tsConfig: { include: ['d3', '../core/**/*', '../demo/**/*', '../cli/**/*'] } },
    esbuild: { options: { target: 'es2022' } },
    // packages stay in node_modules beside the project; workers and migrations are found from its folder
    externals: {
      external: ['@electric-sql/pglite', 'piscina', 'pg'],
      // hundreds of small files that would all be opened at once
      inline: ['date-fns', 'drizzle-orm'],
      traceOptions: { conditions: ['node', 'production', 'module-sync'] } as never,
    },
  },
  typescript: {
    strict: true,
    tsConfig: {
      compilerOptions: { noUncheckedIndexedAccess: true, resolveJsonModule: true },
      include: ['d3', '../core/**/*', '../demo/**/*', '../server/**/*', '../cli/**/*'],
    },
  },
})
