import { usedFields, assembleReport } from '../../../core/compose/assemble'
import { answersRead, fedAnswers } from '../../../core/compose/nested/answers'
import type { NestedBlock } from '../../../core/definition/blocks/nested'
import { fieldsUsed } from '../../../core/formula/parts'
import { valueFrom } from '../../../core/formula/evaluate'
import { type Dealt, dealtBy, withoutFilters } from '../../../core/model/dealt'
import { boundValue, type Fetch, readRecords, type ReadOptions } from '../../../core/read/read'
import { type Plan, planDataSet } from '../../../core/sql/plan'
import type { PlanInput } from '../../../core/sql/planInput'
import { valueAt } from '../../../core/value/columns'
import type { DataRecords, NestedRecords, NestedSet } from '../../../core/value/records'
import type { Answer, Value } from '../../../core/value/value'
import { RunError } from '../input'
import { addLabels } from './labels'
import type { NestedRun } from './ready'

/** Answers of one key, read. */
interface Asked {
  key: string
  parameters: Record<string, Answer>
  /** the values by which its records are found among those of others, where they can be */
  values?: (string | number | boolean)[]
  /** the answers that do more than that: those of the same can be read together */
  rest: string
}

/** Reads the records of a nested report for many answers: all at once where they can be dealt out, else for each by itself, once. */
export class NestedSets {
  private readonly dealt: readonly Dealt[]
  /** the answers that are not dealt by, for which records were read so far */
  private readonly others = new Set<string>()
  /** those that were read by themselves */
  private readonly single = new Map<string, DataRecords>()
  /** what was asked last, level by level */
  private statements: string[] = []

  constructor(
    private readonly run: NestedRun,
    private readonly block: NestedBlock,
    /** a preview leaves out what cannot be read, and says so */
    private readonly partial: boolean,
    /** reads what is nested in it, with the answers that it has itself */
    private readonly inner: { read: (records: DataRecords, fetch: Fetch, parameters: Record<string, Answer>) => Promise<void> } | undefined,
  ) {
    const { definition, report } = run
    this.dealt = dealtBy(
      definition,
      report.tree.levels,
      block.feeds.map(each => each.parameter),
    )
  }

  async read(keys: readonly string[], fetch: Fetch): Promise<NestedRecords> {
    const problems: string[] = []
    const asked = keys.flatMap(key => this.asked(key, problems) ?? [])
    if (problems.length && !this.partial) throw new RunError([`The nested report “${this.run.name}” cannot be read here: ${problems[0]}`])
    await addLabels(
      this.run,
      asked.map(each => each.parameters),
      fetch,
    )
    const together = new Map<string, Asked[]>()
    for (const each of asked) {
      if (!each.values) continue
      const some = together.get(each.rest)
      if (some) some.push(each)
      else together.set(each.rest, [each])
    }
    const apart = asked.filter(each => !each.values && !this.single.has(each.key))
    const fresh = [...together.keys()].filter(rest => !this.others.has(rest))
    const room = this.block.most - this.single.size - this.others.size
    const over = apart.length + fresh.length - room
    if (over > 0 && !this.partial)
      throw new RunError([
        `The nested report “${this.run.name}” would be read more than ${this.block.most.toLocaleString('en')} times, once for each of ` +
          `its different answers; let it be read more often in its settings, or let its filter compare a field with the parameter.`,
      ])
    const parts: DataRecords[] = []
    const sets = new Map<string, NestedSet>()
    for (const rest of fresh.slice(0, Math.max(0, room))) this.others.add(rest)
    for (const [rest, some] of together) {
      if (!this.others.has(rest)) continue
      const { records, sets: own } = await this.dealtOut(some, fetch)
      const part = parts.push(records) - 1
      for (const [key, [from, to]] of own) sets.set(key, { part, from, to })
    }
    for (const each of apart.slice(0, Math.max(0, room - fresh.length))) this.single.set(each.key, await this.readAlone(each, fetch))
    for (const { key, values } of asked) {
      const own = values ? undefined : this.single.get(key)
      if (own) sets.set(key, { part: parts.push(own) - 1, from: 0, to: own.levels[0]!.count })
    }
    const left = Math.max(0, over)
    const said = problems[0]
    const { statements } = this
    return { parts, sets, ...(left ? { left } : {}), ...(said ? { said } : {}), ...(this.partial ? { statements } : {}) }
  }

  /** The answers of a key; nothing where they lack one that is needed: then there are no records for them. */
  private asked(key: string, problems: string[]): Asked | undefined {
    const { definition, printed, report } = this.run
    const answers = fedAnswers(this.block, definition, key)
    const blank = definition.parameters.some(({ name, required }) => required && answers[name] === '')
    if (blank) return undefined
    const { values: parameters, problems: found } = answersRead(printed, answers)
    if (found.length) {
      problems.push(...found)
      return undefined
    }
    const values = this.dealt.map(({ parameter, path }) => {
      const answer = parameters[parameter] ?? null
      const { type } = report.tree.levels[0]!.fields.get(path)!
      const only: Value = Array.isArray(answer) ? (answer.length === 1 ? valueFrom(answer[0] as string, type) : null) : (answer as Value)
      return only === null ? null : boundValue(only)
    })
    const rest = JSON.stringify(
      this.block.feeds.flatMap(({ parameter: fed }) => (this.dealt.some(each => each.parameter === fed) ? [] : [answers[fed]])),
    )
    return values.length && values.every(each => each !== null) ? { key, parameters, values, rest } : { key, parameters, rest }
  }

  /** Records for many answers by one statement a level: those of each lie together. */
  private async dealtOut(
    asked: readonly Asked[],
    fetch: Fetch,
  ): Promise<{ records: DataRecords; sets: Map<string, [from: number, to: number]> }> {
    const { dealt } = this
    const wanted = new Map(asked.map((each, at) => [JSON.stringify(each.values), at]))
    const open = withoutFilters(
      this.run.definition,
      dealt.map(each => each.filter),
    )
    const among = dealt.map(({ path }, at) => ({ path, values: [...new Set(asked.map(each => each.values![at]!))] }))
    let own = new Float64Array()
    const before: ReadOptions['before'] = (column, count) => {
      const columns = dealt.map(({ path }) => column(path))
      own = new Float64Array(count)
      for (let row = 0; row < count; row++) {
        const key = JSON.stringify(columns.map(each => boundValue(valueAt(each, row))))
        own[row] = wanted.get(key) ?? asked.length
      }
      return own
    }
    const records = await this.records(open, asked[0]!.parameters, fetch, { among, before, deals: dealt.map(each => each.path) })
    // the records lie in the order of their answers
    const ends = new Int32Array(asked.length + 2)
    for (const each of own) ends[each + 1]!++
    for (let at = 0; at <= asked.length; at++) ends[at + 1]! += ends[at]!
    return { records, sets: new Map(asked.map(({ key }, at) => [key, [ends[at]!, ends[at + 1]!]])) }
  }

  private readAlone({ parameters }: Asked, fetch: Fetch): Promise<DataRecords> {
    return this.records(this.run.definition, parameters, fetch, {})
  }

  private async records(
    definition: NestedRun['definition'],
    parameters: Record<string, Answer>,
    fetch: Fetch,
    more: { among?: NonNullable<PlanInput['among']>; before?: NonNullable<ReadOptions['before']>; deals?: readonly string[] },
  ): Promise<DataRecords> {
    const { catalog, layout, schema, today, elsewhere, totals } = this.run
    const report = assembleReport(definition, catalog, 0, layout)
    const used = usedFields(report, false)
    for (const { typed } of totals) for (const { level, path } of fieldsUsed(typed)) used[level]!.add(path)
    for (const path of more.deals ?? []) used[0]!.add(path)
    const plan = planDataSet({
      levels: report.tree.levels,
      used,
      catalog: report.model.catalog,
      tables: report.model.tables,
      schema,
      parameterTypes: report.parameterTypes,
      parameters,
      today,
      ...(elsewhere ? { elsewhere } : {}),
      ...(more.among ? { among: more.among } : {}),
    })
    if (this.partial) this.statements = statementsOf(plan)
    const options = { chunk: Number.MAX_SAFE_INTEGER, ...(more.before ? { before: more.before } : {}) }
    for await (const { records } of readRecords(plan, fetch, options)) {
      await this.inner?.read(records, fetch, parameters)
      return records
    }
    throw new Error('Reading gave nothing.')
  }
}

/** The statements of a plan, level by level, with what they are asked with left open. */
const statementsOf = (plan: Plan): string[] =>
  plan.levels.map(level =>
    level.parent < 0
      ? plan.roots.text
      : plan.records(
          level.index,
          plan.link(level.index).own.map(() => ['…']),
        ).text,
  )
