import { ownContext } from '../server/access/context'
import { company, median, ms, note, scale } from './harness'
import { tester, askCompany, sourceSchema } from './support'
import { sql } from 'drizzle-orm'
import { joinCandidates } from '../core/catalog/joins'
import { matchQuery, sampleQuery } from '../core/sql/match'
import { tickField } from '../core/definition/edits/levels'
import type { ReportDefinition } from '../core/definition/report'
import { reportModel } from '../core/model/model'
import { profileQuery, readProfile } from '../core/sql/profile'
import { valueAt } from '../core/value/columns'
import { clock } from '../demo/company/clock'
import { invoiceRegister } from '../demo/reports/reports'
import { openEstante } from '../server/estante'
import { readChoices } from '../server/runs/choices'

/**
 * The Data and Parameters stages: suggestions with their match, a preview after a tick, a profile beside a statement written by hand
 * that returns the same figures, and
 * choices over all customers. Each is what the server's routes do, without HTTP.
 */
export async function data(): Promise<void> {
  const timed = async (runs: number, work: (run: number) => Promise<unknown>): Promise<number[]> => {
    const times: number[] = []
    for (let run = 0; run < runs; run++) {
      const began = performance.now()
      await work(run)
      times.push(performance.now() - began)
    }
    return times
  }
  const words = (times: number[]) => `median ${ms(median(times))}, longest ${ms(Math.max(...times))}`
  for (const size of scale === 1 ? [1] : [1, scale]) {
    const estante = await openEstante({ folder: await company(size) })
    const catalog = (await estante.sources.catalog(ownContext, '')).catalog
    const where = size === 1 ? 'demo size' : `scale ${size}`
    const base = invoiceRegister()
    const unfiltered: ReportDefinition = {
      ...base,
      dataSets: base.dataSets.map((set, index) => (index ? set : { ...set, root: { ...set.root, filters: [] } })),
    }
    const ticked = (run: number) => tickField(unfiltered, 'invoice', '', run % 2 ? 'due_date' : 'freight', true)
    const preview = await timed(9, async run => estante.pool.preview(tester, await estante.input(tester, 'bench', ticked(run), {}), 200))
    const limit = size === 1 ? 150 : 500
    note(`a preview after ticking a field, ${where}`, words(preview.slice(1)), `≤ ${limit} ms median`, median(preview.slice(1)) <= limit)
    const choices = async (search: string, count: boolean) =>
      readChoices(tester, estante, await estante.input(tester, 'bench', base, {}), 'customer', { limit: 100, search, count })
    const { total } = await choices('', true)
    await choices('x', false)
    const opening = await timed(7, () => choices('', false))
    note(
      `opening the choices of a parameter, ${total!.toLocaleString('en')} customers`,
      words(opening),
      '≤ 150 ms median',
      median(opening) <= 150,
    )
    const typing = await timed(12, run => choices('nordvåg'.slice(0, (run % 6) + 1), false))
    note('a key typed in their search', words(typing), '≤ 80 ms median', median(typing) <= 80)
    if (size === scale) {
      const lines = catalog.tables.find(table => table.name === 'journal_lines')!
      const list = await timed(5, async () => joinCandidates(catalog, 'journal_lines'))
      const candidates = joinCandidates(catalog, 'journal_lines')
      const looks = async (query: typeof matchQuery) => {
        const began = performance.now()
        let first = 0
        for (const { table, on, direction } of candidates) {
          const other = sql`${sql.identifier('company')}.${sql.identifier(table)}`
          await askCompany(estante, query(sql`company.journal_lines`, other, on, direction))
          first ||= performance.now() - began
        }
        return { first, all: performance.now() - began }
      }
      const sampled = await looks(sampleQuery)
      const counted = await looks(matchQuery)
      const [first, all] = [median(list) + sampled.first, median(list) + sampled.all]
      note(
        `joining suggestions for a table of ${lines.rowEstimate.toLocaleString('en')} rows, ${catalog.tables.length} tables`,
        `first ${ms(first)}, all ${candidates.length} ${ms(all)} by a first look; counted after ${ms(counted.all)}`,
        '≤ 0.5 s, ≤ 2 s',
        first <= 500 && all <= 2000,
      )
      for (const [column, byHand] of profilesByHand) {
        const definition: ReportDefinition = {
          ...base,
          parameters: [],
          tables: [],
          dataSets: [
            {
              name: 'main',
              source: 'x',
              fields: {},
              root: { name: 'line', table: 'journal_lines', on: [], fields: [column], related: [], details: [], filters: [], sort: [] },
            },
          ],
          layouts: base.layouts,
        }
        const { levels } = reportModel(definition, catalog).trees[0]!
        const query = profileQuery(
          { levels, catalog, schema: sourceSchema, used: [], parameterTypes: {}, parameters: {}, today: clock },
          0,
          column,
        )
        const ours: number[] = []
        const theirs: number[] = []
        let same = true
        for (let run = 0; run < 5; run++) {
          let rows: Awaited<ReturnType<typeof askCompany>> | undefined
          ours.push(...(await timed(1, async () => (rows = await askCompany(estante, query)))))
          const profile = readProfile(levels[0]!.fields.get(column)!.type, rows!)
          theirs.push(
            ...(await timed(
              1,
              async () =>
                (rows = await askCompany(estante, {
                  text: byHand,
                  values: [],
                  columns: ['records', 'empty', 'distinct', 'lowest', 'highest', 'average', 'top', 'bars'].map(path => ({
                    path,
                    type: 'text',
                  })),
                })),
            )),
          )
          const figures = rows!.columns.slice(0, 3).map(each => Number(valueAt(each, 0)))
          const top = JSON.parse(valueAt(rows!.columns[6]!, 0) as string) as { n: number }[]
          same &&=
            JSON.stringify(figures) === JSON.stringify([profile.records, profile.empty, profile.distinct]) &&
            JSON.stringify(top.map(each => each.n)) === JSON.stringify(profile.top.map(each => each.count))
        }
        const ratio = median(ours) / median(theirs)
        note(
          `a profile of journal_lines.${column}`,
          `${ms(median(ours))}, ${ratio.toFixed(2)} × by hand (${ms(median(theirs))})${same ? '' : '; THE FIGURES DIFFER'}`,
          '≤ 1.2 × by hand',
          same && ratio <= 1.2,
        )
      }
    }
    await estante.close()
  }
}

/** The same figures as a profile, written by hand: one column of each kind. */
const profilesByHand: [string, string][] = [
  [
    'debit',
    `
  with v as materialized (select debit as x, count(*) as n from company.journal_lines group by debit), e as (select min(x) as low,
  max(x) as high from v)
  select (select sum(n) from v)::text, (select coalesce(sum(n) filter (where x is null), 0) from v)::text, (select count(x) from
  v)::text, (select low from e)::text, (select high from e)::text,
    (select round(sum(x * n) / sum(n) filter (where x is not null), 6) from v)::text,
    (select json_agg(t) from (select x, n from v where x is not null order by n desc, x limit 30) t)::text,
    (select json_agg(b) from (select least(24, floor((x - low) * 24 / nullif(high - low, 0))::int + 1) as bar, sum(n) as n from v,
    e where x is not null group by 1) b)::text`,
  ],
  [
    'account_code',
    `
  with v as materialized (select account_code as x, count(*) as n from company.journal_lines group by account_code)
  select (select sum(n) from v)::text, (select coalesce(sum(n) filter (where x is null), 0) from v)::text, (select count(x) from
  v)::text, (select min(x collate "unicode") from v), (select max(x collate "unicode") from v), null,
    (select json_agg(t) from (select x, n from v where x is not null order by n desc, x collate "unicode" limit 30) t)::text, null`,
  ],
  [
    'journal_id',
    `
  with v as materialized (select journal_id as x, count(*) as n from company.journal_lines group by journal_id), e as (select
  min(x)::numeric as low, max(x)::numeric as high from v)
  select (select sum(n) from v)::text, (select coalesce(sum(n) filter (where x is null), 0) from v)::text, (select count(x) from
  v)::text, (select low from e)::text, (select high from e)::text,
    (select round(sum(x * n) / sum(n) filter (where x is not null), 6) from v)::text,
    (select json_agg(t) from (select x, n from v where x is not null order by n desc, x limit 30) t)::text,
    (select json_agg(b) from (select least(24, floor((x - low) * 24 / nullif(high - low, 0))::int + 1) as bar, sum(n) as n from v,
    e where x is not null group by 1) b)::text`,
  ],
]
