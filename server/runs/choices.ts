import { LRUCache } from 'lru-cache'
import type { Query } from '../../core/sql/query'
import { type TextColumn, valueAt } from '../../core/value/columns'
import { folded } from '../../core/value/text'
import type { ParameterDefinition } from '../../core/definition/parameters'
import { answerText, readAnswers, splitSeveral } from '../../core/parameter/answers'
import type { ChoicesWanted } from '../../core/sql/choices'
import { type Narrowing, narrowingOf } from '../../core/parameter/narrowing'
import { type Context, whose } from '../access/context'
import type { Sources } from '../sources/sources'
import { RunError, type RunInput } from './input'
import type { Planner } from './planner'
import type { Choice, ListedParameter } from '../../core/api/answers'

/** What choices are read with. */
export interface ChoicesMeans {
  sources: Sources
  planner: Planner
}

function choiceParameter(input: RunInput, name: string): ParameterDefinition {
  const parameter = input.definition.parameters.find(each => each.name === name)
  if (!parameter?.choices) throw new RunError([`“${name}” has no choices.`])
  return parameter
}

/** All choices of one statement, sorted, with what a search compares. */
interface ChoiceList {
  choices: Choice[]
  texts: string[]
}
/** Long lists are kept for a while, so that each key typed in a search is answered from memory; nothing yet where one is being read. */
const kept = new LRUCache<string, { list?: ChoiceList }>({ max: 8, ttl: 30_000 })
/** From so many choices on. */
const longList = 2000
/** By the version of the catalog, which is another for whoever sees other records. */
const keyOf = ({ source, catalogVersion }: RunInput, { text, values }: Query) => JSON.stringify([source, catalogVersion, text, values])

/** Reads a long list to be kept, where it is not yet; until it is there, searches are answered by the source. */
async function keepList(context: Context, sources: Sources, input: RunInput, query: Query): Promise<void> {
  const key = keyOf(input, query)
  if (kept.has(key)) return
  const place: { list?: ChoiceList } = {}
  kept.set(key, place)
  // others need it too: it goes on when whoever asked first leaves
  const reading = sources.reading({ ...whose(context), task: 'choices' }, input.source, async snapshot => {
    const rows = await snapshot.query(query, { timeLimit: 30_000 })
    const [values, labels] = rows.columns.map(column => (column as TextColumn).values)
    const found: ChoiceList = { choices: [], texts: [] }
    for (let row = 0; row < rows.count; row++) {
      const [value, label] = [values![row]!, labels![row] ?? values![row]!]
      found.choices.push({ value, label })
      found.texts.push(folded(`${label}\n${value}`))
      // other requests get their turn while a long list is made ready
      if (row % 20_000 === 19_999) await new Promise(resolve => setImmediate(resolve))
    }
    return found
  })
  try {
    place.list = await reading
  } catch {
    kept.delete(key)
  }
}

/** A page of a parameter's choices, narrowed by the answers above it, with how many there are. @throws RunError */
export async function readChoices(
  context: Context,
  { sources, planner }: ChoicesMeans,
  input: RunInput,
  name: string,
  wanted: Omit<ChoicesWanted, 'narrowing'> & {
    /** instead of what the answers above narrow to */ narrowing?: readonly Narrowing[]
    count?: boolean
  },
): Promise<{ choices: Choice[]; total?: number }> {
  const parameter = choiceParameter(input, name)
  const list = parameter.choices!.list
  if (list) {
    const search = (wanted.search ?? '').trim().toLowerCase()
    const found = list.filter(
      each =>
        (!wanted.values || wanted.values.includes(each.value)) && (!search || `${each.label} ${each.value}`.toLowerCase().includes(search)),
    )
    return { choices: found.slice(wanted.offset ?? 0, (wanted.offset ?? 0) + wanted.limit), total: found.length }
  }
  const { count: counted, narrowing: given, ...asked } = wanted
  const narrowing = given ?? narrowingOf(parameter, input.definition.parameters, input.answers)
  const { queries } = await planner.plan(context, input, { kind: 'choices', parameter: name, wanted: { ...asked, narrowing } })
  const [pageQuery, countQuery, allQuery] = queries as [Query, Query, Query]
  const options = { task: `choices ${name}`, timeLimit: 15_000 }
  const search = wanted.search?.trim()
  if (search && !wanted.values) {
    const known = kept.get(keyOf(input, allQuery))?.list
    if (known) {
      const { choices, texts } = known
      const text = folded(search)
      const from = wanted.offset ?? 0
      const found: Choice[] = []
      let count = 0
      for (let at = 0; at < texts.length; at++) {
        if (!texts[at]!.includes(text)) continue
        if (count++ >= from && found.length < wanted.limit) found.push(choices[at]!)
        else if (count > from && !counted) break
      }
      return { choices: found, ...(counted ? { total: count } : {}) }
    }
  }
  const [page, count] = await sources.reading(context, input.source, snapshot =>
    Promise.all([snapshot.query(pageQuery, options), counted ? snapshot.query(countQuery, options) : undefined]),
  )
  const total = count && (valueAt(count.columns[0]!, 0) as { units: number }).units
  if (!search && !wanted.values && (total ?? 0) > longList) void keepList(context, sources, input, allQuery)
  const text = (column: number, row: number) => valueAt(page.columns[column]!, row) as string | null
  return {
    choices: Array.from({ length: page.count }, (_, row) => ({ value: text(0, row)!, label: text(1, row) ?? text(0, row)! })),
    ...(total === undefined ? {} : { total }),
  }
}

/** Labels of the answered choices, as titles print them. A source that is away gives none: the values stand for themselves. */
export async function answeredLabels(
  context: Context,
  means: ChoicesMeans,
  input: RunInput,
): Promise<Record<string, Record<string, string>>> {
  const labels: Record<string, Record<string, string>> = {}
  const { values: read } = readAnswers(input.definition.parameters, input.answers, {
    today: input.today,
    ...(input.catalog.calendar ? { calendar: input.catalog.calendar } : {}),
  })
  for (const parameter of input.definition.parameters) {
    const text = answerText(parameter, read)
    if (!text || !parameter.choices?.table || parameter.choices.label === parameter.choices.value) continue
    const values = parameter.kind === 'choices' ? splitSeveral(text) : [text]
    try {
      const { choices } = await readChoices(context, means, { ...input, answers: {} }, parameter.name, { limit: values.length, values })
      labels[parameter.name] = Object.fromEntries(choices.map(choice => [choice.value, choice.label]))
    } catch {
      labels[parameter.name] = {}
    }
  }
  return labels
}

/** One sentence per answer that is not among its choices, narrowed by the answers above it. */
export async function choiceProblems(context: Context, means: ChoicesMeans, input: RunInput): Promise<string[]> {
  const problems: string[] = []
  for (const parameter of input.definition.parameters) {
    const text = input.answers[parameter.name]?.trim()
    if (!text || parameter.hidden || !parameter.choices?.table) continue
    const values = parameter.kind === 'choices' ? splitSeveral(text) : [text]
    const { choices } = await readChoices(context, means, input, parameter.name, { limit: values.length, values })
    const gone = values.filter(value => !choices.some(choice => choice.value === value))
    if (gone.length)
      problems.push(
        `${gone.map(value => `“${value.slice(0, 60)}”`).join(', ')} ${gone.length === 1 ? 'is' : 'are'} not among the choices of ` +
          `${parameter.label}.`,
      )
  }
  return problems
}

export async function listParameters(context: Context, means: ChoicesMeans, input: RunInput): Promise<ListedParameter[]> {
  const { parameters, language } = input.definition
  const { values } = readAnswers(
    parameters,
    {},
    { today: input.today, language, ...(input.catalog.calendar ? { calendar: input.catalog.calendar } : {}) },
  )
  const listed: ListedParameter[] = []
  for (const parameter of parameters.filter(each => !each.hidden)) {
    const { name, label, kind, required, help, choices } = parameter
    const above = choices?.narrowedBy?.map(each => each.parameter) ?? []
    const found = choices ? await readChoices(context, means, { ...input, answers: {} }, name, { limit: 20, count: true }) : undefined
    listed.push({
      name,
      label,
      kind,
      required,
      default: answerText(parameter, values),
      ...(help ? { help } : {}),
      ...(above.length ? { narrowedBy: above } : {}),
      ...(found ? { choices: found.choices, choicesInAll: found.total } : {}),
    })
  }
  return listed
}
