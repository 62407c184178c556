import { spawnSync } from 'node:child_process'
import { mkdirSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { toldByLaw } from '../demo/reports/einvoice'
import { salesInvoice } from '../demo/reports/invoice'
import { openEstante, type Estante } from '../server/estante'
import { checkFolder } from '../server/library/checking'
import { exportLibrary } from '../server/library/exporting'
import { importLibrary } from '../server/library/importing'
import type { RunOutput } from '../server/runs/output'
import { company, median, ms, note, root, scale } from './harness'
import { tester } from './support'

/** Files that are kept and read aloud against plain ones, invoices with their XML within, and definitions as text. */
export async function documents(): Promise<void> {
  const folder = join(root, '.build', 'bench-out')
  mkdirSync(folder, { recursive: true })
  tagged(folder)
  const estante = await openEstante({ folder: await company(Math.min(scale, 40)) })
  try {
    await hybrids(estante, folder)
    await texts(estante)
  } finally {
    await estante.close()
  }
}

/** 2,000 pages × 50 rows × 8 columns, by the writer of the day when the limit was set, by today's, and tagged. */
function tagged(folder: string): void {
  const pages = 2000
  type Found = { took: number; peak: number }
  const found: Record<'before' | 'plain' | 'kept', Found[]> = { before: [], plain: [], kept: [] }
  for (let round = 0; round < 5; round++)
    for (const kind of ['before', 'plain', 'kept'] as const) {
      const { stdout } = spawnSync(process.execPath, [join(root, '.build/bench/tagged.worker.mjs'), folder, String(pages), kind], {
        encoding: 'utf8',
        stdio: ['ignore', 'pipe', 'inherit'],
        env: process.env,
      })
      found[kind].push(JSON.parse(stdout.trim().split('\n').at(-1)!) as Found)
    }
  const took = (kind: keyof typeof found) => median(found[kind].map(each => each.took))
  const peak = (kind: keyof typeof found) => median(found[kind].map(each => each.peak))
  const ratio = took('kept') / took('before')
  note(
    '2,000 pages × 50 rows × 8 columns as tagged PDF/A, against the untagged writer of the day when that limit was set',
    `${ratio.toFixed(2)} × (${ms(took('kept'))}, ${ms(took('before'))}; today’s untagged ${ms(took('plain'))})`,
    '≤ 1.5 ×',
    ratio <= 1.5,
  )
  const memory = peak('kept') / peak('before')
  note('peak memory of it against that', `${memory.toFixed(2)} × (${Math.round(peak('kept') / 1e6)} MB)`, '≤ 1.3 ×', memory <= 1.3)
}

/** Ten thousand invoices as files of their own: with their XML within, and plain. */
async function hybrids(estante: Estante, folder: string): Promise<void> {
  const count = Math.min(10_000, 2500 * scale)
  const law = toldByLaw(salesInvoice(), '380')
  const [set, ...others] = law.dataSets
  const filters = ['kind = "invoice"', `id <= ${Math.round(count * 1.034)}`]
  const definition = {
    ...law,
    dataSets: [{ ...set!, root: { ...set!.root, filters } }, ...others],
    layouts: law.layouts.map(layout => ({ ...layout, documentName: '{{ number }}' })),
  }
  const plain = { ...definition, layouts: definition.layouts.map(layout => ({ ...layout, archive: false })) }
  const file = join(folder, 'documents.zip')
  const hybrid = async () => {
    const began = performance.now()
    await estante.pool.run(tester, await estante.input(tester, 'Invoices', definition, {}), { format: 'hybrid', file } as RunOutput)
    return performance.now() - began
  }
  const apart = async () => {
    const began = performance.now()
    const run = estante.runs.start(tester, await estante.input(tester, 'Invoices', plain, {}), 'invoices')
    await run.over
    if (run.state !== 'done') throw new Error(run.sentences?.join(' '))
    await estante.pool.documents(tester, 'Invoices', { pages: run.file, places: run.places }, file)
    return performance.now() - began
  }
  const times = { hybrid: [] as number[], apart: [] as number[] }
  let size = 0
  for (let round = 0; round < 3; round++) {
    times.apart.push(await apart())
    times.hybrid.push(await hybrid())
    size = statSync(file).size
    rmSync(file)
  }
  const ratio = median(times.hybrid) / median(times.apart)
  note(
    `${count.toLocaleString('en')} invoices as PDF/A with their XML within, against plain PDFs`,
    `${ratio.toFixed(2)} × (${ms(median(times.hybrid))}, ${ms(median(times.apart))}; ${Math.round(size / 1e6)} MB)`,
    '≤ 1.4 ×',
    ratio <= 1.4,
  )
}

/** A library of 500 reports as a folder of texts, and the check of thirty of them. */
async function texts(estante: Estante): Promise<void> {
  const wanted = 500
  const names = async () => (await estante.store.library(tester)).flatMap(shelf => shelf.reports)
  const before = await names()
  const own = before.filter(each => !each.name.startsWith('Bench'))
  for (let at = before.length; at < wanted; at++) {
    const { definition } = await estante.store.report(tester, own[at % own.length]!.id)
    await estante.store.create(tester, 'Bench: texts', `Bench: text ${at}`, definition, false)
  }
  const timed = async <T>(work: () => Promise<T>): Promise<[T, number]> => {
    const began = performance.now()
    const result = await work()
    return [result, performance.now() - began]
  }
  const [files, out] = await timed(() => exportLibrary(tester, estante))
  note(`a library of ${(await names()).length} reports exported`, ms(out), '≤ 5 s', out <= 5000)
  for (const each of await names()) if (each.name.startsWith('Bench: text')) await estante.store.remove(tester, each.id)
  const [, into] = await timed(() => importLibrary(tester, estante, files))
  note('and imported again', ms(into), '≤ 5 s', into <= 5000)
  const again = await exportLibrary(tester, estante)
  const same =
    again.size === files.size &&
    [...files].every(([path, bytes]) => Buffer.compare(Buffer.from(bytes), Buffer.from(again.get(path) ?? [])) === 0)
  note('what is exported then', same ? 'the same, byte for byte' : 'not the same', 'the same', same)
  const thirty = new Map([...files].filter(([path]) => !path.startsWith('reports/Bench')).filter(([path]) => path.startsWith('reports/')))
  await checkFolder(tester, estante, thirty)
  const [checked, took] = await timed(() => checkFolder(tester, estante, thirty))
  note(`a check of ${checked.length} reports`, ms(took), '≤ 3 s', took <= 3000)
  for (const each of await names()) if (each.name.startsWith('Bench: text')) await estante.store.remove(tester, each.id)
}
