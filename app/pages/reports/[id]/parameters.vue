<script setup lang="ts">
import { columnCaption, findTable, readable } from '../../../../core/catalog/types'
import { freeId } from '../../../../core/definition/edits/edits'
import { moveParameter, putParameter, removeParameter } from '../../../../core/definition/edits/parameters'
import {
  type ChoicesDefinition,
  type ParameterDefinition,
  type ParameterKind,
  parameterKinds,
} from '../../../../core/definition/parameters'
import { isPlainName } from '../../../../core/formula/syntax'
import { answerText, readAnswers } from '../../../../core/parameter/answers'
import { NarrowingError, narrowingOrder } from '../../../../core/parameter/narrowing'

const report = useReport()
const parameters = computed(() => report.definition!.parameters)
const chosen = ref('')
const current = computed(() => parameters.value.find(each => each.name === chosen.value) ?? parameters.value[0])
const calendar = computed(() => report.catalog?.calendar)
const around = computed(() => ({
  today: report.today,
  language: report.definition!.language,
  ...(calendar.value ? { calendar: calendar.value } : {}),
}))
const problems = computed(() =>
  Object.fromEntries(readAnswers(parameters.value, report.answers, around.value).problems.map(each => [each.parameter, each.sentence])),
)
const ordered = computed(() => {
  try {
    return narrowingOrder(parameters.value)
  } catch {
    return [...parameters.value]
  }
})
const kindItems = parameterKinds.map(value => ({
  value,
  label: {
    text: t('common.text2'),
    whole: t('reportsIdParametersPage.wholeNumber'),
    decimal: t('reportsIdParametersPage.decimalNumber'),
    date: t('common.date'),
    dates: t('reportsIdParametersPage.dateRange'),
    month: t('sourceBooks.month'),
    period: t('reportsIdParametersPage.periodOfTheFiscalCalendar'),
    boolean: t('reportsIdParametersPage.yesOrNo'),
    choice: t('reportsIdParametersPage.choice'),
    choices: t('reportsIdParametersPage.severalChoices'),
  }[value],
}))
const kindLabel = (kind: ParameterKind) => kindItems.find(each => each.value === kind)!.label

const problem = ref('')
/** Puts a changed parameter in; one that would narrow itself in a circle is refused with a sentence. */
function change(label: string, next: Partial<ParameterDefinition>, merge = ''): void {
  const before = current.value!
  const parameter = { ...before, ...next }
  for (const key of ['default', 'defaultTo', 'help', 'choices', 'hidden'] as const)
    if (!parameter[key]) Reflect.deleteProperty(parameter, key)
  const trial = putParameter(report.definition!, parameter, before.name)
  try {
    narrowingOrder(trial.parameters)
  } catch (error) {
    if (!(error instanceof NarrowingError)) throw error
    problem.value = error.message
    return
  }
  problem.value = ''
  report.edit(label, definition => putParameter(definition, parameter, before.name), merge)
  chosen.value = parameter.name
}
function rename(name: string): void {
  if (name === current.value!.name) return
  if (!isPlainName(name)) problem.value = t('reportsIdParametersPage.aParameterIsCalledBy')
  else if (parameters.value.some(each => each.name === name))
    problem.value = t('reportsIdParametersPage.thereIsAParameterAlready', { name })
  else change(t('common.rename'), { name })
}
function add(kind: ParameterKind): void {
  const name = freeId(
    kind === 'boolean' ? 'flag' : kind === 'whole' || kind === 'decimal' ? 'number' : kind,
    parameters.value.map(each => each.name),
    true,
  )
  const choices: ChoicesDefinition | undefined =
    kind === 'choice' || kind === 'choices' ? { table: '', value: '', label: '', list: [] } : undefined
  report.edit(t('reportsIdParametersPage.parameter', { name }), definition =>
    putParameter(definition, {
      name,
      label: readable(name),
      kind,
      required: false,
      ...(kind === 'period' ? { default: 'period(today())' } : {}),
      ...(choices ? { choices } : {}),
    }),
  )
  chosen.value = name
}
function setKind(kind: ParameterKind): void {
  const withChoices = kind === 'choice' || kind === 'choices'
  change(t('reportsIdParametersPage.kind'), {
    kind,
    default: undefined,
    defaultTo: undefined,
    choices: withChoices ? (current.value!.choices ?? { table: '', value: '', label: '', list: [] }) : undefined,
  })
}

// choices
const tableItems = computed(() =>
  report.model!.catalog.tables.map(table => ({
    label: table.name.startsWith('@') ? t('common.ofThisReport', { readable: readable(table.name) }) : readable(table.name),
    value: table.name,
    hint: table.comment ?? '',
  })),
)
const columns = computed(() => findTable(report.model!.catalog, current.value?.choices?.table ?? '')?.columns ?? [])
const columnItems = computed(() => columns.value.map(column => ({ label: columnCaption(column), value: column.name })))
function setTable(table: string): void {
  const found = findTable(report.model!.catalog, table)!
  const value =
    found.columns.find(column => column.name === 'code') ??
    found.columns.find(column => found.primaryKey.includes(column.name)) ??
    found.columns[0]!
  const label = found.columns.find(column => column.name === 'name') ?? found.columns.find(column => column.type === 'text') ?? value
  change(t('reportsIdParametersPage.choices'), {
    choices: { table, value: value.name, label: label.name, ...(value.type === 'text' ? {} : { type: value.type }) },
  })
}
const setChoices = (next: Partial<ChoicesDefinition>) => {
  const choices = { ...current.value!.choices!, ...next }
  const column = columns.value.find(each => each.name === choices.value)
  if (column && column.type !== 'text') choices.type = column.type
  else delete choices.type
  if (!choices.narrowedBy?.length) delete choices.narrowedBy
  change(t('reportsIdParametersPage.choices'), { choices })
}
const listed = computed({
  get: () =>
    (current.value?.choices?.list ?? []).map(each => (each.label === each.value ? each.value : `${each.value} = ${each.label}`)).join('\n'),
  set: (text: string) =>
    change(t('reportsIdParametersPage.choices'), {
      choices: {
        table: '',
        value: '',
        label: '',
        list: text
          .split('\n')
          .map(line => line.trim())
          .filter(Boolean)
          .map(line => {
            const [value, ...label] = line.split('=')
            return { value: value!.trim(), label: label.join('=').trim() || value!.trim() }
          }),
      },
    }),
})
const typed = computed(() => !current.value?.choices?.table)
const others = computed(() =>
  parameters.value.filter(each => each !== current.value && !each.hidden).map(each => ({ label: each.label, value: each.name })),
)
const above = (parameter: ParameterDefinition) =>
  (parameter.choices?.narrowedBy ?? [])
    .map(by => parameters.value.find(each => each.name === by.parameter))
    .filter(Boolean) as ParameterDefinition[]
const depth = (parameter: ParameterDefinition): number => Math.max(0, ...above(parameter).map(each => depth(each) + 1))
const proposals = computed(() =>
  proposalsAt({ levels: [], level: -1, parameters: {} }, report.definition!).filter(each => each.kind === 'function'),
)
const defaultFault = computed(() => {
  if (!current.value) return undefined
  const found = readAnswers([current.value], {}, around.value).problems.find(each => !each.sentence.endsWith('needs an answer.'))
  return found ? { message: found.sentence, from: 0, to: current.value.default?.length ?? 0 } : undefined
})
const textDefault = computed({
  get: () => current.value?.default ?? '',
  set: value => change(t('reportsIdParametersPage.default'), { default: value }, 'default'),
})
const textDefaultTo = computed({
  get: () => current.value?.defaultTo ?? '',
  set: value => change(t('reportsIdParametersPage.default'), { defaultTo: value }, 'defaultTo'),
})
/** Defaults are shown as answers, so that the form says what the rows stand on. */
const defaults = computed(() => {
  const { values } = readAnswers(parameters.value, {}, around.value)
  return Object.fromEntries(
    parameters.value
      .filter(each => !each.hidden)
      .map(each => [each.name, answerText(each, values)])
      .filter(([, text]) => text),
  )
})
const given = computed({ get: () => ({ ...defaults.value, ...report.answers }), set: value => report.setAnswers(value) })
const example: Partial<Record<ParameterKind, string>> = {
  month: 'monthStart(today())',
  date: 'today()',
  dates: 'monthStart(today())',
  period: 'period(today())',
  text: t('reportsIdParametersPage.northQuay'),
  whole: '10',
  decimal: '0.5',
  boolean: 'true',
  choice: '"C-0001"',
  choices: '"C-0001,C-0002"',
}
</script>

<template>
  <div class="flex min-h-0">
    <aside class="bar flex w-[270px] shrink-0 flex-col border-r border-default" :aria-label="t('reportsIdParametersPage.parameters')">
      <div class="flex items-center justify-between px-4 pb-2 pt-3">
        <h2 class="font-display text-base font-semibold">{{ t('reportsIdParametersPage.parameters') }}</h2>
        <UDropdownMenu :items="[kindItems.map(each => ({ label: each.label, onSelect: () => add(each.value) }))]"
          ><UButton size="xs" variant="ghost" icon="i-lucide-plus">{{ t('common.add') }}</UButton></UDropdownMenu
        >
      </div>
      <ol class="grow space-y-0.5 overflow-auto px-3">
        <li
          v-for="parameter in ordered"
          :key="parameter.name"
          class="group flex items-center rounded-md"
          :class="parameter === current ? 'bg-petrol-100 dark:bg-petrol-900' : 'hover:bg-elevated'"
          :style="{ marginLeft: `${depth(parameter) * 18}px` }"
          :data-listed="parameter.name"
        >
          <UIcon v-if="depth(parameter)" name="i-lucide-corner-down-right" class="ml-1 size-3.5 shrink-0 text-dimmed" />
          <button class="min-w-0 grow px-2 py-1.5 text-left" :aria-current="parameter === current" @click="chosen = parameter.name">
            <span class="flex items-center gap-1.5 font-medium"
              ><span class="truncate">{{ parameter.label }}</span
              ><UIcon v-if="parameter.hidden" name="i-lucide-eye-off" class="size-3.5 text-dimmed"
            /></span>
            <span class="block truncate text-xs text-muted"
              >{{ kindLabel(parameter.kind).toLowerCase()
              }}{{
                above(parameter).length
                  ? t('reportsIdParametersPage.narrowedBy', {
                      map: above(parameter)
                        .map(each => each.label)
                        .join(', '),
                    })
                  : ''
              }}</span
            >
          </button>
          <span class="flex opacity-0 focus-within:opacity-100 group-hover:opacity-100"
            ><UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-chevron-up"
              class="p-0.5"
              :aria-label="t('reportsIdParametersPage.earlier', { label: parameter.label })"
              @click="report.edit(t('common.order'), definition => moveParameter(definition, parameter.name, -1))" /><UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-chevron-down"
              class="p-0.5"
              :aria-label="t('reportsIdParametersPage.later', { label: parameter.label })"
              @click="report.edit(t('common.order'), definition => moveParameter(definition, parameter.name, 1))"
          /></span>
        </li>
      </ol>
    </aside>
    <main class="desk min-w-0 grow overflow-auto p-8" :aria-label="t('reportsIdParametersPage.theReaderSForm')">
      <div class="mx-auto max-w-xl rounded-md border border-default bg-default p-7 shadow-sm">
        <div class="flex items-center justify-between pb-4">
          <h2 class="font-display text-xl font-semibold">{{ report.name }}</h2>
          <SavedAnswers v-model="given" :report="report.id" />
        </div>
        <AnswerFields
          v-if="parameters.length"
          v-model="given"
          form
          :definition="report.definition!"
          :parameters="parameters"
          :problems="problems"
          :calendar="calendar"
        />
        <p v-else class="text-muted">
          {{ t('reportsIdParametersPage.thisReportAsksNothingYet') }}
          <code class="font-mono text-sm">param.name</code>.
        </p>
      </div>
      <p class="mx-auto max-w-xl pt-3 text-sm text-muted">
        {{
          t('reportsIdParametersPage.thisIsWhatReadersFill', {
            what: report.rows
              ? counted(report.rows.records.levels[0]!.count, report.tree?.levels[0]?.caption ?? '')
              : t('reportsIdParametersPage.reading'),
          })
        }}
      </p>
    </main>
    <aside
      v-if="current"
      class="bar flex w-[340px] shrink-0 flex-col border-l border-default"
      :aria-label="t('reportsIdParametersPage.settingsOfTheParameter')"
    >
      <div class="grow space-y-3.5 overflow-auto p-4">
        <p v-if="problem" class="rounded-md bg-brick-50 p-2 text-sm text-brick-800 dark:bg-brick-950 dark:text-brick-200" role="alert">
          {{ tell(problem) }}
        </p>
        <UFormField :label="t('reportsIdParametersPage.label')" size="sm"
          ><UInput
            :model-value="current.label"
            size="sm"
            class="w-full"
            @update:model-value="value => change(t('reportsIdParametersPage.label'), { label: String(value) }, 'label')"
        /></UFormField>
        <div class="grid grid-cols-2 gap-3">
          <UFormField :label="t('reportsIdParametersPage.nameInFormulas')" size="sm"
            ><UInput
              :model-value="current.name"
              size="sm"
              class="w-full font-mono"
              @change="rename(($event.target as HTMLInputElement).value)"
          /></UFormField>
          <UFormField :label="t('reportsIdParametersPage.kind')" size="sm"
            ><USelect
              :model-value="current.kind"
              :items="kindItems"
              size="sm"
              class="w-full"
              @update:model-value="kind => setKind(kind as ParameterKind)"
          /></UFormField>
        </div>
        <template v-if="current.choices">
          <div class="flex gap-4 text-sm">
            <label class="flex items-center gap-1.5"
              ><input
                type="radio"
                :checked="typed"
                class="accent-petrol-700"
                @change="change(t('reportsIdParametersPage.choices'), { choices: { table: '', value: '', label: '', list: [] } })"
              />
              {{ t('reportsIdParametersPage.typedIn') }}</label
            ><label class="flex items-center gap-1.5"
              ><input type="radio" :checked="!typed" class="accent-petrol-700" @change="setTable(tableItems[0]!.value)" />
              {{ t('reportsIdParametersPage.fromATableOrData') }}</label
            >
          </div>
          <UFormField
            v-if="typed"
            :label="t('reportsIdParametersPage.choicesOneALine')"
            :help="t('reportsIdParametersPage.writeValueLabelWhereThey')"
            size="sm"
            ><UTextarea
              v-model.lazy="listed"
              :rows="5"
              size="sm"
              class="w-full font-mono"
              :aria-label="t('reportsIdParametersPage.choicesOneALine')"
          /></UFormField>
          <template v-else>
            <UFormField :label="t('common.table')" size="sm"
              ><USelectMenu
                :model-value="current.choices.table"
                :items="tableItems"
                value-key="value"
                size="sm"
                class="w-full"
                :search-input="{ placeholder: t('common.findATable') }"
                :aria-label="t('reportsIdParametersPage.tableOfTheChoices')"
                @update:model-value="(table: string) => setTable(table)"
            /></UFormField>
            <div class="grid grid-cols-2 gap-3">
              <UFormField :label="t('reportsIdParametersPage.value')" size="sm"
                ><USelectMenu
                  :model-value="current.choices.value"
                  :items="columnItems"
                  value-key="value"
                  size="sm"
                  class="w-full"
                  :aria-label="t('reportsIdParametersPage.valueOfAChoice')"
                  @update:model-value="(value: string) => setChoices({ value })"
              /></UFormField>
              <UFormField :label="t('reportsIdParametersPage.shownAs')" size="sm"
                ><USelectMenu
                  :model-value="current.choices.label"
                  :items="columnItems"
                  value-key="value"
                  size="sm"
                  class="w-full"
                  :aria-label="t('reportsIdParametersPage.labelOfAChoice')"
                  @update:model-value="(label: string) => setChoices({ label })"
              /></UFormField>
            </div>
            <section class="space-y-1.5" data-narrowed>
              <h3 class="text-sm font-semibold">{{ t('reportsIdParametersPage.narrowedBy2') }}</h3>
              <div v-for="(by, index) in current.choices.narrowedBy ?? []" :key="index" class="flex items-center gap-1.5 text-sm">
                <USelect
                  :model-value="by.parameter"
                  :items="others"
                  size="sm"
                  class="min-w-0 grow"
                  :aria-label="t('reportsIdParametersPage.narrowedByWhichParameter')"
                  @update:model-value="
                    parameter =>
                      setChoices({
                        narrowedBy: current!.choices!.narrowedBy!.map((each, at) =>
                          at === index ? { ...each, parameter: String(parameter) } : each,
                        ),
                      })
                  "
                />
                =
                <USelectMenu
                  :model-value="by.column"
                  :items="columnItems"
                  value-key="value"
                  size="sm"
                  class="min-w-0 grow"
                  :aria-label="t('reportsIdParametersPage.columnThatHoldsTheAnswer')"
                  @update:model-value="
                    (column: string) =>
                      setChoices({
                        narrowedBy: current!.choices!.narrowedBy!.map((each, at) => (at === index ? { ...each, column } : each)),
                      })
                  "
                />
                <UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-x"
                  :aria-label="t('reportsIdParametersPage.doNotNarrowByIt')"
                  @click="setChoices({ narrowedBy: current!.choices!.narrowedBy!.filter((_, at) => at !== index) })"
                />
              </div>
              <UButton
                v-if="others.length"
                size="xs"
                variant="ghost"
                icon="i-lucide-plus"
                @click="
                  setChoices({
                    narrowedBy: [
                      ...(current!.choices!.narrowedBy ?? []),
                      {
                        parameter: others[0]!.value,
                        column: columnItems.find(each => each.value.startsWith(others[0]!.value))?.value ?? columnItems[0]!.value,
                      },
                    ],
                  })
                "
                >{{ t('reportsIdParametersPage.anotherParameter') }}</UButton
              >
            </section>
          </template>
        </template>
        <UFormField
          :label="current.kind === 'dates' ? t('reportsIdParametersPage.defaultFirstDay') : t('reportsIdParametersPage.default')"
          size="sm"
          ><CodeField
            :key="current.name"
            v-model="textDefault"
            language="formula"
            :label="t('reportsIdParametersPage.defaultOfTheParameter')"
            :lines="1"
            :hint="example[current.kind]"
            :proposals="proposals"
            :fault="defaultFault"
        /></UFormField>
        <UFormField v-if="current.kind === 'dates'" :label="t('reportsIdParametersPage.defaultLastDay')" size="sm"
          ><CodeField
            :key="current.name"
            v-model="textDefaultTo"
            language="formula"
            :label="t('reportsIdParametersPage.defaultOfTheLastDay')"
            :lines="1"
            hint="today()"
            :proposals="proposals"
        /></UFormField>
        <UFormField :label="t('reportsIdParametersPage.help')" size="sm"
          ><UInput
            :model-value="current.help ?? ''"
            size="sm"
            class="w-full"
            @update:model-value="value => change(t('reportsIdParametersPage.help'), { help: String(value) }, 'help')"
        /></UFormField>
        <div class="flex gap-5 text-sm">
          <label class="flex items-center gap-1.5"
            ><input
              type="checkbox"
              :checked="current.required"
              class="accent-petrol-700"
              @change="change(t('reportsIdParametersPage.required'), { required: !current!.required })"
            />
            {{ t('reportsIdParametersPage.anAnswerIsNeeded') }}</label
          ><label class="flex items-center gap-1.5"
            ><input
              type="checkbox"
              :checked="current.hidden"
              class="accent-petrol-700"
              @change="change(t('reportsIdParametersPage.hidden'), { hidden: !current!.hidden })"
            />
            {{ t('reportsIdParametersPage.hiddenTakesItsDefault') }}</label
          >
        </div>
      </div>
      <footer class="flex border-t border-default px-4 py-2.5">
        <UButton
          size="sm"
          variant="ghost"
          color="error"
          icon="i-lucide-trash-2"
          @click="
            () => {
              report.edit(t('common.remove', { name: current!.name }), definition => removeParameter(definition, current!.name))
              chosen = ''
            }
          "
          >{{ t('common.takeOut') }}</UButton
        >
      </footer>
    </aside>
  </div>
</template>
