import { appendFileSync } from 'node:fs'
import { SMTPServer } from 'smtp-server'
import { dice } from './support'

/** A mail server that is slow, refuses, puts off and breaks off, now and then; what it has taken is written down before it says so. */
const [port, log, seed] = process.argv.slice(2) as [string, string, string]
const roll = dice(Number(seed))
const server = new SMTPServer({
  authOptional: true,
  disabledCommands: ['AUTH', 'STARTTLS'],
  logger: false,
  onData: (stream, _session, done) => {
    const parts: Buffer[] = []
    stream.on('data', (part: Buffer) => parts.push(part))
    stream.on('end', () => {
      const id = /^message-id: *(<[^>]+>)/im.exec(Buffer.concat(parts).toString('latin1'))?.[1] ?? ''
      const fate = roll()
      if (fate < 0.04) return done(Object.assign(new Error('Come again later'), { responseCode: 451 }))
      if (fate < 0.06) return done(Object.assign(new Error('Nobody of that name'), { responseCode: 550 }))
      appendFileSync(log, `${id}\n`)
      // taken, and then the line goes dead
      if (fate < 0.08) {
        for (const each of server.connections) (Reflect.get(each, '_socket') as { destroy: () => void }).destroy()
        return
      }
      setTimeout(() => done(), fate < 0.2 ? 300 : 0)
    })
  },
})
server.on('error', () => {})
server.listen(Number(port), '127.0.0.1', () => process.stdout.write('open\n'))
