// The house: which folder may know which. Every arrow points down this list; what is not allowed here is an error. Tests are free, but
// those of core stand on core alone; tests of it over the demo company are in tests/core.
const core = {
  'core/value': [],
  'core/catalog': ['core/value'],
  'core/intake': ['core/value', 'core/catalog'],
  'core/books': ['core/value', 'core/catalog'],
  // invoices that machines read, as the standard means them
  'core/einvoice': ['core/value'],
  // orders to banks
  'core/payment': ['core/value', 'core/einvoice'],
  'core/definition': ['core/value', 'core/catalog', 'core/books', 'core/einvoice', 'core/payment'],
  'core/formula': ['core/value', 'core/catalog', 'core/books', 'core/einvoice', 'core/payment', 'core/definition'],
  'core/parameter': ['core/value', 'core/catalog', 'core/books', 'core/einvoice', 'core/payment', 'core/definition', 'core/formula'],
}
core['core/model'] = [...core['core/formula'], 'core/formula']
core['core/shape'] = [...core['core/model'], 'core/model']
core['core/statement'] = [...core['core/model'], 'core/model']
core['core/sql'] = [...core['core/model'], 'core/model', 'core/parameter', 'core/statement']
core['core/guard'] = [...core['core/sql'], 'core/sql']
core['core/read'] = [...core['core/sql'], 'core/sql', 'core/shape']
core['core/compose'] = [...core['core/model'], 'core/model', 'core/parameter', 'core/shape', 'core/statement']
const below = [...new Set([...core['core/compose'], ...core['core/read'], 'core/compose', 'core/read'])]
for (const room of ['core/draw', 'core/compare', 'core/tieout', 'core/templates', 'core/swap']) core[room] = below
// what is due when, and packs of reports
core['core/pack'] = [...below, 'core/parameter', 'core/tieout']
// definitions as text, in folders
core['core/plain'] = [...below, 'core/guard', 'core/parameter', 'core/pack']
core['core/api'] = [
  ...below,
  'core/guard',
  'core/intake',
  'core/parameter',
  'core/pack',
  'core/draw',
  'core/compare',
  'core/tieout',
  'core/templates',
  'core/swap',
]

const rooms = Object.entries(core).map(([room, known]) => ({
  name: `arrows of ${room}`,
  severity: 'error',
  from: { path: `^${room}/`, pathNot: '[.]test[.]ts$' },
  to: { path: '^(core|server|app|cli|demo|tests|bench)/', pathNot: [room, ...known].map(each => `^${each}/`) },
}))

export default {
  forbidden: [
    { name: 'no circles of files', severity: 'error', from: { pathNot: '[.]test[.]ts$' }, to: { circular: true } },
    ...rooms,
    { name: 'core stands alone', severity: 'error', from: { path: '^core/' }, to: { path: '^(server|app|cli|demo|tests|bench)/' } },
    {
      name: 'server knows core only',
      severity: 'error',
      from: { path: '^server/', pathNot: '[.]test[.]ts$' },
      to: { path: '^(app|cli|demo|tests|bench)/' },
    },
    {
      name: 'app knows core only',
      severity: 'error',
      from: { path: '^app/', pathNot: '[.]test[.]ts$' },
      to: { path: '^(server|cli|demo|tests|bench)/' },
    },
    {
      name: 'demo is not known',
      severity: 'error',
      from: { path: '^(cli|demo)/', pathNot: '[.]test[.]ts$' },
      to: { path: '^(app|tests|bench)/' },
    },
    { name: 'cli knows no demo', severity: 'error', from: { path: '^cli/', pathNot: '[.]test[.]ts$' }, to: { path: '^demo/' } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(node_modules|[.]nuxt|[.]output|[.]build)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: '.nuxt/tsconfig.app.json' },
    enhancedResolveOptions: { extensions: ['.ts', '.vue', '.js', '.mjs', '.json'] },
  },
}
