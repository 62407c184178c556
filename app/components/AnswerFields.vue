<script setup lang="ts">
import type { ParameterDefinition } from '../../core/definition/parameters'
import type { ReportDefinition } from '../../core/definition/report'
import { joinSeveral, splitSeveral } from '../../core/parameter/answers'
import type { Dropped } from '../../core/parameter/narrowing'
import { type FiscalCalendar, monthWords, periodLabel } from '../../core/books/calendar'
import { dayText, monthStart } from '../../core/value/date'

const sources = useSources()

/** The reader's form: a field per parameter, in a line (Run) or one under the other (Parameters). */
const {
  parameters,
  problems,
  report,
  definition,
  calendar,
  form = false,
} = defineProps<{
  parameters: readonly ParameterDefinition[]
  problems: Record<string, string>
  /** the report as readers run it, or the definition as it is being edited */
  report?: string
  definition?: ReportDefinition
  calendar?: FiscalCalendar
  form?: boolean
}>()
const answers = defineModel<Record<string, string>>({ required: true })
const asked = computed(() => parameters.filter(parameter => !parameter.hidden))
const body = (given: Record<string, string>) => ({ ...(report ? { report } : { definition }), answers: given })

const dropped = ref<Dropped[]>([])
const settling = ref(false)
let turn = 0
/** Answers as given, while it is being found out which of them are still among their choices. */
let given: Record<string, string> | undefined
/** An answer that narrows others lets go of those that are no longer among their choices, and says so. */
async function set(name: string, value: string): Promise<void> {
  const next = { ...(given ?? answers.value), [name]: value }
  dropped.value = []
  const narrows = parameters.some(parameter => parameter.choices?.narrowedBy?.some(by => by.parameter === name))
  if (!narrows && !given) return void (answers.value = next)
  const mine = ++turn
  given = next
  settling.value = true
  try {
    const settled = await api<{ answers: Record<string, string>; dropped: Dropped[] }>('/api/settle', { method: 'POST', body: body(next) })
    if (mine !== turn) return
    dropped.value = settled.dropped
    answers.value = settled.answers
  } catch {
    if (mine === turn) answers.value = next
  } finally {
    if (mine === turn) {
      given = undefined
      settling.value = false
    }
  }
}
const droppedWords = (name: string) => dropped.value.find(each => each.parameter === name)?.sentence

const monthItems = computed(() => {
  const list: { value: string; label: string }[] = []
  for (let day = monthStart(sources.today), count = 0; count < 36; count++) {
    list.push({ value: dayText(day).slice(0, 7), label: monthWords(day, locale()) })
    day = monthStart(day - 1)
  }
  return list
})
const periodItems = computed(() =>
  [...(calendar?.periods ?? [])]
    .reverse()
    .map(period => ({ value: period.code, label: tell(periodLabel(period, locale())), hint: period.code })),
)
const labelIn = (items: readonly { value: string; label: string }[], value: string | undefined) =>
  items.find(item => item.value === value)?.label ?? value

interface Page {
  choices: { value: string; label: string }[]
  total?: number
}
const searches = reactive<Record<string, string>>({})
const pages = reactive<Record<string, Page>>({})
const labels = reactive<Record<string, Record<string, string>>>({})
const busy = reactive<Record<string, boolean>>({})
const faults = reactive<Record<string, string>>({})
const turns: Record<string, number> = {}
async function find(name: string, more = false): Promise<void> {
  const mine = (turns[name] = (turns[name] ?? 0) + 1)
  busy[name] = true
  try {
    const before = more ? (pages[name]?.choices ?? []) : []
    const found = await api<Page>('/api/choices', {
      method: 'POST',
      body: { ...body(given ?? answers.value), parameter: name, search: searches[name] ?? '', offset: before.length, count: !more },
    })
    if (mine !== turns[name]) return
    pages[name] = { choices: [...before, ...found.choices], total: found.total ?? pages[name]?.total }
    for (const choice of found.choices) (labels[name] ??= {})[choice.value] = choice.label
    Reflect.deleteProperty(faults, name)
  } catch (error) {
    if (mine === turns[name]) faults[name] = (error as Error).message
  } finally {
    if (mine === turns[name]) busy[name] = false
  }
}
/** Labels of answers that were not chosen here: they came with the address. */
async function name(parameter: ParameterDefinition): Promise<void> {
  const values = chosen(parameter).filter(value => !labels[parameter.name]?.[value])
  if (!values.length) return
  try {
    const found = await api<Page>('/api/choices', { method: 'POST', body: { ...body({}), parameter: parameter.name, values } })
    for (const choice of found.choices) (labels[parameter.name] ??= {})[choice.value] = choice.label
  } catch {
    // the values stand for themselves
  }
}
const findSoon = useDebounceFn(find, 90)
const searching = (parameter: string, text: string) => {
  searches[parameter] = text
  void findSoon(parameter)
}
/** The list that is open: it is read again when the answers above it come. */
let list: string | undefined
const opened = (parameter: ParameterDefinition, open: boolean) => {
  if (!open) {
    if (list === parameter.name) list = undefined
    return
  }
  list = parameter.name
  searches[parameter.name] = ''
  void find(parameter.name)
}
const chosen = (parameter: ParameterDefinition) => {
  const text = answers.value[parameter.name]?.trim() ?? ''
  return parameter.kind === 'choices' ? splitSeveral(text) : text ? [text] : []
}
watch(
  () => [parameters, answers.value] as const,
  () => asked.value.filter(each => each.choices).forEach(each => void name(each)),
  { immediate: true },
)
watch(answers, () => {
  if (list !== undefined) void find(list)
})
const chosenWords = (parameter: ParameterDefinition) => {
  const values = chosen(parameter).map(value => labels[parameter.name]?.[value] ?? value)
  return values.length > 3
    ? t('answerFields.andMore', { values: values.slice(0, 2).join(', '), what: values.length - 2 })
    : values.join(', ')
}
const range = (parameter: ParameterDefinition, end: 0 | 1) => (answers.value[parameter.name] ?? '').split('..')[end] ?? ''
function setRange(parameter: ParameterDefinition, end: 0 | 1, value: string): void {
  const ends = [range(parameter, 0), range(parameter, 1)]
  ends[end] = value
  void set(parameter.name, ends[0] || ends[1] ? ends.join('..') : '')
}
const above = (parameter: ParameterDefinition) =>
  (parameter.choices?.narrowedBy ?? []).flatMap(by => parameters.find(each => each.name === by.parameter)?.label ?? [])
const empty = (parameter: ParameterDefinition) => (parameter.required ? t('answerFields.choose') : t('common.all'))
</script>

<template>
  <div :class="form ? 'space-y-4' : 'flex flex-wrap items-start gap-x-5 gap-y-2'">
    <div v-for="parameter in asked" :key="parameter.name" :class="form ? '' : 'flex items-start gap-2'" :data-parameter="parameter.name">
      <label
        :for="`answer-${parameter.name}`"
        class="block text-sm"
        :class="form ? 'pb-1 font-semibold' : 'pt-1.5 text-muted'"
        :title="parameter.help"
        >{{ parameter.label }}<span v-if="form && parameter.required" class="font-normal text-muted">{{ t('answerFields.needed') }}</span
        ><span v-if="form && above(parameter).length" class="font-normal text-muted">
          {{ t('answerFields.narrowedBy', { parameter: above(parameter).join(', ') }) }}</span
        ></label
      >
      <div>
        <USelectMenu
          v-if="parameter.kind === 'month'"
          :id="`answer-${parameter.name}`"
          :model-value="answers[parameter.name]"
          :items="monthItems"
          value-key="value"
          size="sm"
          :class="form ? 'w-72' : 'w-44'"
          :search-input="{ placeholder: t('answerFields.findAMonth') }"
          @update:model-value="(value: string) => set(parameter.name, value)"
          ><template #default>{{ labelIn(monthItems, answers[parameter.name]) || t('answerFields.chooseAMonth') }}</template></USelectMenu
        >
        <USelectMenu
          v-else-if="parameter.kind === 'period'"
          :id="`answer-${parameter.name}`"
          :model-value="answers[parameter.name]"
          :items="periodItems"
          value-key="value"
          size="sm"
          :class="form ? 'w-72' : 'w-60'"
          :search-input="{ placeholder: t('answerFields.findAPeriod') }"
          @update:model-value="(value: string) => set(parameter.name, value)"
          ><template #default>{{ labelIn(periodItems, answers[parameter.name]) || t('answerFields.chooseAPeriod') }}</template></USelectMenu
        >
        <div v-else-if="parameter.kind === 'choice' || parameter.kind === 'choices'" class="flex items-center gap-1">
          <USelectMenu
            :id="`answer-${parameter.name}`"
            :model-value="parameter.kind === 'choices' ? chosen(parameter) : answers[parameter.name]"
            :multiple="parameter.kind === 'choices'"
            :items="pages[parameter.name]?.choices ?? []"
            value-key="value"
            label-key="label"
            ignore-filter
            size="sm"
            :class="form ? 'w-80' : 'w-56'"
            :loading="busy[parameter.name]"
            :search-input="{ placeholder: t('answerFields.findA', { label: parameter.label.toLowerCase() }) }"
            :search-term="searches[parameter.name] ?? ''"
            :ui="{ content: 'w-80' }"
            @update:open="(open: boolean) => opened(parameter, open)"
            @update:search-term="(text: string) => searching(parameter.name, text)"
            @update:model-value="
              (value: unknown) => set(parameter.name, Array.isArray(value) ? joinSeveral(value as string[]) : String(value))
            "
          >
            <template #default
              ><span class="truncate">{{ chosenWords(parameter) || empty(parameter) }}</span></template
            >
            <template #item-trailing="{ item }"
              ><span v-if="item.label !== item.value" class="text-xs text-dimmed">{{ item.value }}</span></template
            >
            <template #content-bottom
              ><p
                v-if="pages[parameter.name]"
                class="flex items-center gap-2 border-t border-default px-2 py-1 text-xs text-muted"
                data-choice-count
              >
                {{
                  faults[parameter.name] ??
                  (pages[parameter.name]!.total === undefined
                    ? ''
                    : [pages[parameter.name]!.choices.length, pages[parameter.name]!.total!].map(count => grouped(count)).join(' of '))
                }}<UButton
                  v-if="(pages[parameter.name]!.total ?? 0) > pages[parameter.name]!.choices.length"
                  size="xs"
                  variant="ghost"
                  class="ml-auto"
                  @click="find(parameter.name, true)"
                  >{{ t('answerFields.more') }}</UButton
                >
              </p></template
            >
          </USelectMenu>
          <UButton
            v-if="answers[parameter.name]"
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            :aria-label="t('answerFields.allNoChosen', { label: parameter.label.toLowerCase() })"
            @click="set(parameter.name, '')"
          />
        </div>
        <div v-else-if="parameter.kind === 'dates'" class="flex items-center gap-1.5 text-sm text-muted">
          <DayField
            :id="`answer-${parameter.name}`"
            :model-value="range(parameter, 0)"
            :label="t('answerFields.firstDay', { label: parameter.label })"
            class="w-44"
            clearable
            @update:model-value="day => setRange(parameter, 0, day)"
          />
          {{ t('common.to') }}
          <DayField
            :model-value="range(parameter, 1)"
            :label="t('answerFields.lastDay', { label: parameter.label })"
            class="w-44"
            clearable
            @update:model-value="day => setRange(parameter, 1, day)"
          />
        </div>
        <USelect
          v-else-if="parameter.kind === 'boolean'"
          :id="`answer-${parameter.name}`"
          :model-value="answers[parameter.name] || 'none'"
          :items="[
            ...(parameter.required ? [] : [{ label: t('answerFields.either'), value: 'none' }]),
            { label: t('answerFields.yes'), value: 'yes' },
            { label: t('answerFields.no'), value: 'no' },
          ]"
          size="sm"
          class="w-28"
          @update:model-value="value => set(parameter.name, value === 'none' ? '' : String(value))"
        />
        <DayField
          v-else-if="parameter.kind === 'date'"
          :id="`answer-${parameter.name}`"
          :model-value="answers[parameter.name] ?? ''"
          :label="parameter.label"
          :clearable="!parameter.required"
          :class="form ? 'w-72' : 'w-44'"
          @update:model-value="day => set(parameter.name, day)"
        />
        <UInput
          v-else
          :id="`answer-${parameter.name}`"
          size="sm"
          :model-value="answers[parameter.name] ?? ''"
          :class="form ? 'w-72' : 'w-40'"
          @change="set(parameter.name, ($event.target as HTMLInputElement).value)"
        />
        <p v-if="problems[parameter.name]" class="max-w-72 pt-1 text-xs text-error" role="alert">{{ problems[parameter.name] }}</p>
        <p
          v-if="droppedWords(parameter.name)"
          class="max-w-72 pt-1 text-xs text-apricot-700 dark:text-apricot-300"
          role="status"
          data-dropped-answer
        >
          {{ droppedWords(parameter.name) }}
        </p>
        <p v-if="form && parameter.help" class="pt-1 text-xs text-muted">{{ parameter.help }}</p>
      </div>
    </div>
  </div>
</template>
