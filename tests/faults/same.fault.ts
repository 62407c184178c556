import { mkdirSync } from 'node:fs'
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { Disk } from './disk'
import { child, end, scratch, wait } from './support'

/** A disk that has kept everything is the one that the program has written: what recorder and disk know of it is whole. */
const folder = scratch()
const data = join(folder, 'store')
const logs = join(folder, 'logs')
mkdirSync(data)
mkdirSync(logs)
const disk = Disk.of(data)
const {
  process: own,
  lines,
  ended,
} = child('writer', ['write-store', data, '0'], { FAULTS_ROOT: data, FAULTS_LOG: logs }, [
  '--require',
  join(process.cwd(), 'tests', 'faults', 'recorder.cjs'),
])
while (lines.length < 20) await wait(10)
own.kill('SIGKILL')
await ended
disk.play(logs)
disk.cut(join(folder, 'again'), () => true)
let differences = ''
try {
  execFileSync('diff', ['-rq', '--exclude=*.sound*', data, join(folder, 'again')])
} catch (error) {
  differences = String((error as { stdout: Buffer }).stdout)
}
end('same', !differences, differences ? differences.slice(0, 2000) : 'the disk put together is the disk that was written')
