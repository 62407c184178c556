import { company, median, ms, note, root, scale } from './harness'
import { spawnSync } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'

/** 10,000 invoices to PDF: composing and writing against a bare replay of the same display lists. */
export async function pdf(): Promise<void> {
  const folder = await company(Math.min(scale, 40))
  const runs = join(root, '.build', 'bench-out')
  mkdirSync(runs, { recursive: true })
  const heaps: number[][] = []
  const ratios: { both: number; write: number; compose: number }[] = []
  for (let round = 0; round < 3; round++) {
    const child = spawnSync(process.execPath, ['--expose-gc', join(root, '.build/bench/write.worker.mjs'), folder, runs, '10000'], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'inherit'],
      env: process.env,
    })
    const found = JSON.parse(child.stdout.trim().split('\n').at(-1)!) as {
      pages: number
      compose: number
      write: number
      replay: number
      heap: [number, number]
      bytes: number
      fetch: number
      shape: number
    }
    heaps.push(found.heap)
    ratios.push({
      both: (found.compose + found.write) / found.replay,
      write: found.write / found.replay,
      compose: found.compose / found.replay,
    })
    console.log(
      `  ${found.pages} pages, ${(found.bytes / 1e6).toFixed(1)} MB; fetch ${ms(found.fetch)}, shape ${ms(found.shape)}, compose ` +
        `${ms(found.compose)}, write ${ms(found.write)}, bare replay ${ms(found.replay)}`,
    )
  }
  const both = median(ratios.map(each => each.both))
  const write = median(ratios.map(each => each.write))
  note('10,000 invoices to PDF, compose + write', `${both.toFixed(2)} × bare replay`, '≤ 1.25 ×', both <= 1.25)
  note('10,000 invoices to PDF, write alone', `${write.toFixed(2)} × bare replay`, '≤ 1.3 ×', write <= 1.3)
  const heap = median(heaps.map(([early, late]) => late! / early!))
  note('heap after collection, at 90 % of the run against 10 %', `${heap.toFixed(2)} ×`, '≤ 1.1 ×', heap <= 1.1)
}

/** A list of 100,000 lines in three levels of groups with subtotals to PDF, against a bare replay of its display lists. */
export async function groups(): Promise<void> {
  const folder = await company(Math.min(scale, 40))
  const runs = join(root, '.build', 'bench-out')
  mkdirSync(runs, { recursive: true })
  const wanted = scale >= 40 ? 100_000 : 8_000
  const found: {
    pages: number
    rows: number
    first: number
    compose: number
    write: number
    replay: number
    fetch: number
    shape: number
  }[] = []
  for (let round = 0; round < 3; round++) {
    const child = spawnSync(
      process.execPath,
      ['--expose-gc', '--max-old-space-size=4096', join(root, '.build/bench/write.worker.mjs'), folder, runs, String(wanted), 'groups'],
      { encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'], env: process.env },
    )
    const each = JSON.parse(child.stdout.trim().split('\n').at(-1)!) as (typeof found)[number]
    found.push(each)
    console.log(
      `  ${each.rows.toLocaleString('en')} lines, ${each.pages} pages; fetch ${ms(each.fetch)}, shape ${ms(each.shape)}, compose ` +
        `${ms(each.compose)}, write ${ms(each.write)}, bare replay ${ms(each.replay)}, first page after ${ms(each.first)}`,
    )
  }
  const ratio = median(found.map(each => (each.compose + each.write) / each.replay))
  note(
    `${found[0]!.rows.toLocaleString('en')} lines in three levels of groups to PDF, compose + write`,
    `${ratio.toFixed(2)} × bare replay`,
    '≤ 1.4 ×',
    ratio <= 1.4,
  )
  const first = median(found.map(each => each.first))
  note('first page of it, from request', ms(first), '≤ 0.8 s', first <= 800)
}

/** Lines to a workbook with outline and totals, against the bare writer library streaming the same cells, each in a process of its own. */
export async function workbook(): Promise<void> {
  const folder = await company(Math.min(scale, 40))
  const runs = join(root, '.build', 'bench-out')
  mkdirSync(runs, { recursive: true })
  const found: { rows: number; ours: number; bare: number; peak: number }[] = []
  const start = (task: 'read' | 'write') =>
    spawnSync(
      process.execPath,
      ['--expose-gc', join(root, '.build/bench/sheet.worker.mjs'), task, folder, runs, String(scale >= 40 ? 100_000 : 8_000)],
      { encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'], env: process.env },
    )
  start('read')
  for (let round = 0; round < 3; round++) {
    const child = start('write')
    found.push(JSON.parse(child.stdout.trim().split('\n').at(-1)!) as (typeof found)[number])
    const each = found.at(-1)!
    console.log(
      `  ${each.rows.toLocaleString('en')} rows of a sheet: ours ${ms(each.ours)}, the bare library ${ms(each.bare)}, peak ` +
        `${Math.round(each.peak / 1e6)} MB`,
    )
  }
  const ratio = median(found.map(each => each.ours / each.bare))
  note(
    `${found[0]!.rows.toLocaleString('en')} rows to a workbook with outline and totals`,
    `${ratio.toFixed(2)} × the bare library`,
    '≤ 1.2 ×',
    ratio <= 1.2,
  )
  const peak = median(found.map(each => each.peak)) / 1e6
  note('peak memory of it', `${Math.round(peak)} MB`, '≤ 400 MB', peak <= 400)
}

/** A million rows as CSV, through the reader of chunks, against a bare csv-stringify stream of the same cells. */
export async function csv(): Promise<void> {
  const runs = join(root, '.build', 'bench-out')
  mkdirSync(runs, { recursive: true })
  const found: { rows: number; ours: number; bare: number; early: number; late: number }[] = []
  for (let round = 0; round < 3; round++) {
    const child = spawnSync(
      process.execPath,
      ['--expose-gc', join(root, '.build/bench/csv.worker.mjs'), runs, String(scale >= 40 ? 1_000_000 : 100_000)],
      { encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'], env: process.env },
    )
    found.push(JSON.parse(child.stdout.trim().split('\n').at(-1)!) as (typeof found)[number])
    const each = found.at(-1)!
    console.log(
      `  ${each.rows.toLocaleString('en')} rows: ours ${ms(each.ours)}, bare ${ms(each.bare)}, heap ${Math.round(each.early / 1e6)} ` +
        `→ ${Math.round(each.late / 1e6)} MB`,
    )
  }
  const speed = median(found.map(each => each.bare / each.ours))
  note(
    `${found[0]!.rows.toLocaleString('en')} rows to CSV`,
    `${Math.round(speed * 100)} % of the speed of a bare stream`,
    '≥ 50 %',
    speed >= 0.5,
  )
  const heap = median(found.map(each => each.late / each.early))
  note('heap after collection, at 90 % of it against 10 %', `${heap.toFixed(2)} ×`, '≤ 1.1 ×', heap <= 1.1)
}
