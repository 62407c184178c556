import words from '@intlify/eslint-plugin-vue-i18n'
import regexp from 'eslint-plugin-regexp'
import withNuxt from './.nuxt/eslint.config.mjs'

// what core/ may not import: it runs in the browser's worker, on the server and in tests alike, and knows none of them
const outside = [
  'vue',
  'vue-router',
  'pinia',
  'nuxt',
  '@nuxt/*',
  '@vueuse/*',
  'h3',
  '#imports',
  '#app',
  'node:*',
  'fs',
  'path',
  'worker_threads',
  'pg',
  'pg-protocol',
  '@electric-sql/*',
  'pdfkit',
  'fontkit',
  'exceljs',
  'piscina',
  'drizzle-orm/!(pg-core)*',
  'drizzle-orm/pg-core/*',
  '**/app/**',
  '**/server/**',
  '**/cli/**',
  '**/demo/**',
]

export default withNuxt(
  { ignores: ['core/formula/parser.js', '.build/**', '.output/**', 'server/store/migrations/**'] },
  {
    rules: {
      'max-len': ['error', { code: 140 }],
      'vue/multi-word-component-names': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/no-multiple-template-root': 'off',
      'vue/require-default-prop': 'off',
      'vue/no-restricted-html-elements': ['error', { element: 'select', message: 'Choices are a PickField.' }],
      'vue/no-restricted-static-attribute': [
        'error',
        ...['date', 'month', 'week', 'time', 'datetime-local'].map(value => ({ key: 'type', value, message: 'Days are a DayField.' })),
      ],
      '@typescript-eslint/unified-signatures': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
    },
  },
  {
    // texts of the interface stand in the files of its languages
    files: ['app/**/*.vue'],
    plugins: { words },
    settings: { 'vue-i18n': { localeDir: 'app/i18n/*.json', messageSyntaxVersion: '^11.0.0' } },
    rules: {
      'words/no-raw-text': [
        'error',
        {
          attributes: {
            '/.+/': [
              'label',
              'aria-label',
              'title',
              'placeholder',
              'alt',
              'description',
              'hint',
              'help',
              'text',
              'words',
              'legend',
              'caption',
            ],
          },
          ignoreNodes: ['code', 'kbd'],
          // formulas, SQL and addresses are the same in every language
          ignorePattern: '^[^A-Za-zÀ-ÿ]*$|\\w\\(|[<>=]|^[a-z]+\\.[a-z]*$|\\(person\\.|^https:|^empty$',
        },
      ],
    },
  },
  {
    // no pattern goes back and forth over what somebody wrote: a text must not hang the program
    files: ['core/**/*.ts', 'server/**/*.ts', 'app/**/*.{ts,vue}', 'cli/**/*.ts', 'demo/**/*.ts'],
    ignores: ['**/*.test.ts'],
    plugins: { backtracking: regexp },
    rules: { 'backtracking/no-super-linear-backtracking': ['error', { report: 'potential' }] },
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['core/**/*.test.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [{ group: outside, message: 'core/ stays free of interface, Node and driver code.' }],
          paths: [
            { name: 'drizzle-orm', allowImportNames: ['sql', 'SQL'], message: 'core/ uses only sql of Drizzle.' },
            { name: 'drizzle-orm/pg-core', allowImportNames: ['PgDialect'], message: 'core/ uses only PgDialect of Drizzle.' },
          ],
        },
      ],
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'navigator',
        'localStorage',
        'process',
        'Buffer',
        'self',
        'fetch',
        'HTMLElement',
      ],
    },
  },
)
