import { LRUCache } from 'lru-cache'
import { assembleReport } from '../../core/compose/assemble'
import { PlanError, type Query } from '../../core/sql/query'
import type { PlanInput } from '../../core/sql/plan'
import { SqlTextError } from '../../core/sql/authored'
import { type TextColumn, valueAt } from '../../core/value/columns'
import { folded } from '../../core/value/text'
import type { ParameterDefinition } from '../../core/definition/parameters'
import { answerText, readAnswers, splitSeveral } from '../../core/parameter/answers'
import { choicesQueries, type ChoicesWanted } from '../../core/sql/choices'
import { type Narrowing, narrowingOf } from '../../core/parameter/narrowing'
import type { Context } from '../access/context'
import type { Sources } from '../sources/sources'
import { RunError, type RunInput } from './input'
import type { Choice, ListedParameter } from '../../core/api/answers'

/** What a parameter's statements are planned with; faults in other answers do not matter here. */
function planning(input: RunInput): Omit<PlanInput, 'levels' | 'used'> {
  const { model } = assembleReport(input.definition, input.catalog)
  const { values } = readAnswers(input.definition.parameters, input.answers, {
    today: input.today,
    ...(input.catalog.calendar ? { calendar: input.catalog.calendar } : {}),
  })
  return {
    catalog: model.catalog,
    tables: model.tables,
    schema: input.schema,
    parameterTypes: model.parameterTypes,
    parameters: values,
    today: input.today,
  }
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
const keyOf = (source: string, { text, values }: Query) => JSON.stringify([source, text, values])

/** Reads a long list to be kept, where it is not yet; until it is there, searches are answered by the source. */
async function keepList(context: Context, sources: Sources, source: string, query: Query): Promise<void> {
  const key = keyOf(source, query)
  if (kept.has(key)) return
  const place: { list?: ChoiceList } = {}
  kept.set(key, place)
  // others need it too: it goes on when whoever asked first leaves
  const own: Context = { person: context.person, task: 'choices' }
  const reading = sources.reading(own, source, async snapshot => {
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
  sources: Sources,
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
  const narrowing = wanted.narrowing ?? narrowingOf(parameter, input.definition.parameters, input.answers)
  try {
    const queries = choicesQueries(planning(input), parameter, { ...wanted, narrowing })
    const options = { task: `choices ${name}`, timeLimit: 15_000 }
    const search = wanted.search?.trim()
    if (search && !wanted.values) {
      const known = kept.get(keyOf(input.source, queries.all))?.list
      if (known) {
        const { choices, texts } = known
        const text = folded(search)
        const from = wanted.offset ?? 0
        const found: Choice[] = []
        let count = 0
        for (let at = 0; at < texts.length; at++) {
          if (!texts[at]!.includes(text)) continue
          if (count++ >= from && found.length < wanted.limit) found.push(choices[at]!)
          else if (count > from && !wanted.count) break
        }
        return { choices: found, ...(wanted.count ? { total: count } : {}) }
      }
    }
    const [page, count] = await sources.reading(context, input.source, snapshot =>
      Promise.all([snapshot.query(queries.page, options), wanted.count ? snapshot.query(queries.count, options) : undefined]),
    )
    const total = count && (valueAt(count.columns[0]!, 0) as { units: number }).units
    if (!search && !wanted.values && (total ?? 0) > longList) void keepList(context, sources, input.source, queries.all)
    const text = (column: number, row: number) => valueAt(page.columns[column]!, row) as string | null
    return {
      choices: Array.from({ length: page.count }, (_, row) => ({ value: text(0, row)!, label: text(1, row) ?? text(0, row)! })),
      ...(total === undefined ? {} : { total }),
    }
  } catch (error) {
    if (error instanceof PlanError || error instanceof SqlTextError) throw new RunError([error.message])
    throw error
  }
}

/** Labels of the answered choices, as titles print them. A source that is away gives none: the values stand for themselves. */
export async function answeredLabels(context: Context, sources: Sources, input: RunInput): Promise<Record<string, Record<string, string>>> {
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
      const { choices } = await readChoices(context, sources, { ...input, answers: {} }, parameter.name, { limit: values.length, values })
      labels[parameter.name] = Object.fromEntries(choices.map(choice => [choice.value, choice.label]))
    } catch {
      labels[parameter.name] = {}
    }
  }
  return labels
}

/** One sentence per answer that is not among its choices, narrowed by the answers above it. */
export async function choiceProblems(context: Context, sources: Sources, input: RunInput): Promise<string[]> {
  const problems: string[] = []
  for (const parameter of input.definition.parameters) {
    const text = input.answers[parameter.name]?.trim()
    if (!text || parameter.hidden || !parameter.choices?.table) continue
    const values = parameter.kind === 'choices' ? splitSeveral(text) : [text]
    const { choices } = await readChoices(context, sources, input, parameter.name, { limit: values.length, values })
    const gone = values.filter(value => !choices.some(choice => choice.value === value))
    if (gone.length)
      problems.push(
        `${gone.map(value => `“${value.slice(0, 60)}”`).join(', ')} ${gone.length === 1 ? 'is' : 'are'} not among the choices of ` +
          `${parameter.label}.`,
      )
  }
  return problems
}

export async function listParameters(context: Context, sources: Sources, input: RunInput): Promise<ListedParameter[]> {
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
    const found = choices ? await readChoices(context, sources, { ...input, answers: {} }, name, { limit: 20, count: true }) : undefined
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
