// Takes a file in as a source does, or does the bare part of it alone: each in a process of its own, so that its memory is its own.
import '../plugins'
import { createReadStream, readFileSync } from 'node:fs'
import { basename } from 'node:path'
import { PGlite } from '@electric-sql/pglite'
import readExcelFile from 'read-excel-file/node'
import { inThread } from '../server/sources/inThread'
import type { TakeAnswer, TakeOrder } from '../server/sources/files/take.worker'

const [, , task, path, folder, columns] = process.argv as string[] as [string, string, string, string, string, string]

async function ours(): Promise<{ ms: number; rows: number }> {
  const order: TakeOrder = { task: 'take', place: { kind: 'folder', folder: `${folder}/own/g1` }, files: [{ path, name: basename(path) }] }
  const began = performance.now()
  const answer = (await inThread<TakeAnswer>('take', order, 'It could not be taken in', {})) as TakeAnswer & { kind: 'taken' }
  return { ms: performance.now() - began, rows: answer.tables[0]!.rows }
}

/** The same rows, written as COPY takes them before, and nothing else. */
async function copy(): Promise<{ ms: number; rows: number }> {
  const db = await PGlite.create(`${folder}/bare`)
  await db.exec(`create table t (${columns})`)
  let took = 0
  const hand = async (pieces: Buffer[]) => {
    const blob = new Blob(pieces.map(piece => new Uint8Array(piece)))
    const began = performance.now()
    await db.query(`copy t from '/dev/blob'`, [], { blob })
    took += performance.now() - began
  }
  let rest = Buffer.alloc(0)
  let pieces: Buffer[] = []
  let size = 0
  for await (const chunk of createReadStream(path, { highWaterMark: 1 << 20 })) {
    const whole = Buffer.concat([rest, chunk as Buffer])
    const end = whole.lastIndexOf(10) + 1
    pieces.push(whole.subarray(0, end))
    size += end
    rest = whole.subarray(end)
    if (size < 8_000_000) continue
    await hand(pieces)
    ;[pieces, size] = [[], 0]
  }
  if (size) await hand(pieces)
  const { rows } = await db.query<{ n: number }>('select count(*)::int as n from t')
  await db.close()
  return { ms: took, rows: rows[0]!.n }
}

/** The reading library alone, whole into memory as it does. */
async function library(): Promise<{ ms: number; rows: number }> {
  const began = performance.now()
  const rows = await readExcelFile(readFileSync(path))
  return { ms: performance.now() - began, rows: rows.length }
}

const found = await { ours, copy, library }[task as 'ours']()
console.log(JSON.stringify({ ...found, memory: process.resourceUsage().maxRSS * 1024 }))
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
process.exit(0)
