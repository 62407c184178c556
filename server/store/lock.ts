import { existsSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync, writeSync, closeSync } from 'node:fs'
import { randomBytes } from 'node:crypto'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { StoreError } from './records'

/** Who holds a data folder. */
export interface Holder {
  /** the machine, where folders are shared between several */
  host?: string
  pid: number
  /** start of the process, so that a number used again is not taken for it */ started: string
  address?: string
  /** who can read the folder may do everything at the address, with this key */
  key?: string
  since: string
}

const file = (folder: string) => join(folder, 'holder.json')

/** The process that holds a data folder, if it is alive. */
export function holderOf(folder: string): Holder | undefined {
  if (!existsSync(file(folder))) return undefined
  let holder: Holder
  try {
    holder = JSON.parse(readFileSync(file(folder), 'utf8')) as Holder
  } catch {
    return undefined
  }
  // whether a process of another machine lives cannot be seen from here: it is taken to
  const elsewhere = holder.host !== undefined && holder.host !== hostname()
  return elsewhere || processStart(holder.pid) === holder.started ? holder : undefined
}

/**
 * Takes a data folder for this process alone: two processes writing to one would destroy it.
 * @throws StoreError naming the process that has it
 */
export function takeFolder(folder: string): { tell: (address: string) => void; key: string; release: () => void } {
  mkdirSync(folder, { recursive: true })
  const key = randomBytes(32).toString('base64url')
  const own: Holder = { host: hostname(), pid: process.pid, started: processStart(process.pid)!, key, since: new Date().toISOString() }
  for (let attempt = 0; ; attempt++) {
    try {
      const handle = openSync(file(folder), 'wx', 0o600)
      writeSync(handle, JSON.stringify(own))
      closeSync(handle)
      break
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
      const holder = holderOf(folder)
      if (holder || attempt)
        throw new StoreError(
          `The data folder ${folder} is in use by another Estante (process ` +
            `${holder?.pid ?? '?'}${holder?.host && holder.host !== hostname() ? ` on ${holder.host}` : ''}` +
            `${holder?.address ? ` at ${holder.address}` : ''}, since ${holder?.since ?? '?'}); stop that one or name another folder` +
            `${holder?.host && holder.host !== hostname() ? `. If that machine is gone, remove ${file(folder)}` : ''}.`,
          423,
        )
      // its process is gone: it was killed and could not clean up
      rmSync(file(folder), { force: true })
    }
  }
  return {
    tell: address => writeFileSync(file(folder), JSON.stringify({ ...own, address })),
    key,
    release: () => {
      const now = existsSync(file(folder)) ? (JSON.parse(readFileSync(file(folder), 'utf8')) as Holder) : undefined
      if (now?.pid === own.pid && now.started === own.started) rmSync(file(folder), { force: true })
    },
  }
}

/** When a process started, as the system tells it; undefined where it is not running. */
function processStart(pid: number): string | undefined {
  try {
    process.kill(pid, 0)
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EPERM') return undefined
  }
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8')
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19]
  } catch {
    return 'unknown'
  }
}
