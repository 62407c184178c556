// npm run demo: installs what is missing, builds, makes the demo company the first time, starts, and prints the address.
// npm start: the same without the company, on a folder of one's own (--own).
// options: --port 4780, --scale 1 (40 is the benchmark's size), --data .data
import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { root } from './ensure.mjs'

const { values } = parseArgs({
  options: {
    port: { type: 'string', default: process.env.PORT ?? '4780' },
    scale: { type: 'string', default: process.env.ESTANTE_SCALE ?? '1' },
    data: { type: 'string' },
    own: { type: 'boolean', default: false },
  },
})
if (!(Number(values.scale) > 0)) {
  console.error(`“${values.scale}” is no size; write --scale 1, or 40 for the benchmark's company.`)
  process.exit(2)
}
const { buildAll } = await import('./build.mjs')
await buildAll()
/** The files of a certificate, as the server takes them. */
const { ESTANTE_TLS_CERT: cert, ESTANTE_TLS_KEY: key } = process.env
const tls = cert && key ? { NITRO_SSL_CERT: readFileSync(cert, 'utf8'), NITRO_SSL_KEY: readFileSync(key, 'utf8') } : {}
const server = spawn(process.execPath, [`${root}.output/server/index.mjs`], {
  stdio: ['ignore', 'pipe', 'inherit'],
  env: {
    ...process.env,
    NITRO_HOST: process.env.ESTANTE_HOST || '127.0.0.1',
    HOST: process.env.ESTANTE_HOST || '127.0.0.1',
    ...tls,
    NITRO_PORT: values.port,
    PORT: values.port,
    ESTANTE_ROOT: root,
    ESTANTE_SCALE: values.scale,
    ...(values.own ? { ESTANTE_DEMO: 'off', ESTANTE_DATA: values.data ?? process.env.ESTANTE_DATA ?? '.own' } : {}),
    ...(values.data ? { ESTANTE_DATA: values.data } : {}),
  },
})
console.log(values.own ? 'Opening the library …' : 'Opening the company Cais Velho …')
server.stdout.on('data', data => {
  if (String(data).includes('Estante is ready.'))
    console.log(`Estante is at ${process.env.ESTANTE_ORIGIN || `http://127.0.0.1:${values.port}`} (Ctrl C ends it)`)
})
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
server.on('exit', code => process.exit(code ?? 0))
