<script setup lang="ts">
import { readable } from '../../../core/catalog/types'
import { newSummary, summaryFault } from '../../../core/model/derive'
import { tablesOf } from '../../../core/model/model'
import { splitText } from '../../../core/model/split'
import { rootOf, stackedOn } from '../../../core/model/stack'
import { putTable, removeTable } from '../../../core/definition/edits/dataSets'
import { freeId } from '../../../core/definition/edits/edits'
import { keepTable, tableNames } from '../../../core/definition/edits/ownTables'
import type { LevelDefinition } from '../../../core/definition/levels'
import type { TableColumn, TableDefinition } from '../../../core/definition/tables'
import { isPlainName, pathText } from '../../../core/formula/syntax'

/** A table of the report's own: an SQL text, a summary, or stacked sets. */
const {
  table: kind,
  name = '',
  base = '',
  parent = '',
} = defineProps<{
  table: 'sql' | 'summary' | 'stack'
  name?: string
  /** the level or table that a summary is made of */ base?: string
  /** the level under which a derived set is put */ parent?: string
}>()
const report = useReport()
const data = useData()
/** filters of the levels above that could not be brought along */
const left = ref<string[]>([])
/** tables of open items and of the books have a panel of their own */
type WrittenTable = Exclude<TableDefinition, { kind: 'openItems' | 'ledger' | 'elsewhere' }>
const own = ref<WrittenTable>({ kind: 'sql', name: '', text: '', columns: [], key: [] })
const taken = computed(() => tableNames(report.definition!).filter(each => each !== name))

watch(
  () => [kind, name, base, parent],
  () => {
    const known = report.definition!.tables?.find(each => each.name === name)
    if (known && known.kind !== 'openItems' && known.kind !== 'ledger' && known.kind !== 'elsewhere') own.value = plain(known)
    else if (kind === 'sql') own.value = { kind, name: freeId('flat', taken.value, true), text: '', columns: [], key: [] }
    else if (kind === 'stack') own.value = { kind, name: freeId('movements', taken.value, true), origin: 'kind', columns: [], parts: [] }
    else {
      const made = newSummary(report.definition!, data.tree?.levels ?? [], { of: base, under: !!parent })
      left.value = made.left
      own.value = plain(made.table)
    }
  },
  { immediate: true },
)

const trial = computed(() => putTable(report.definition!, plain(own.value), name || undefined))
const summaryLevels = computed(() => {
  if (own.value.kind !== 'summary') return []
  const found = modelOf(trial.value, report.catalog!).tables.get(`@${own.value.name}`)
  return found?.kind === 'summary' ? found.tree.levels : []
})
const proposals = computed(() =>
  summaryLevels.value.length
    ? proposalsAt({ levels: summaryLevels.value, level: 0, parameters: report.model!.parameterTypes }, report.definition!).filter(
        each => !/^(running|first|last|has)\(/.test(each.insert),
      )
    : [],
)
const nameFault = computed(() =>
  !isPlainName(own.value.name)
    ? t('common.itIsCalledByOne')
    : taken.value.includes(own.value.name)
      ? t('tablePanel.thereIsADataSet', { name: own.value.name })
      : '',
)

// ── SQL text
const fault = ref<{ message: string; from: number; to: number }>()
const describing = ref(false)
let turn = 0
const describe = useDebounceFn(async () => {
  if (own.value.kind !== 'sql') return
  const mine = ++turn
  const { text } = own.value
  if (!text.trim()) {
    fault.value = undefined
    return
  }
  describing.value = true
  try {
    const found = await api<{ columns?: TableColumn[]; fault?: { message: string; from: number; to: number } }>(
      useSources().path('describe'),
      { method: 'POST', body: { definition: report.definition, text } },
    )
    if (mine !== turn || own.value.kind !== 'sql') return
    fault.value = found.fault
    if (found.columns) {
      const names = found.columns.map(column => column.name)
      const twice = names.find((each, index) => names.indexOf(each) !== index || each === '?column?')
      if (twice) fault.value = { message: t('tablePanel.eachColumnNeedsAName', { twice }), from: 0, to: 0 }
      else own.value = { ...own.value, columns: found.columns, key: own.value.key.filter(each => names.includes(each)) }
    }
  } catch (error) {
    if (mine === turn) fault.value = { message: (error as Error).message, from: 0, to: 0 }
  } finally {
    if (mine === turn) describing.value = false
  }
}, 350)
const sqlText = computed({
  get: () => (own.value.kind === 'sql' ? own.value.text : ''),
  set: text => {
    if (own.value.kind !== 'sql') return
    own.value = { ...own.value, text }
    void describe()
  },
})
const schema = computed(() =>
  Object.fromEntries(report.catalog!.tables.map(table => [table.name, table.columns.map(column => column.name)])),
)

// ── split
const splitKey = ref<string[]>([])
const constants = ref<string[]>([])
const changing = ref<{ column: string; keys: number }[]>([])
const splitting = ref(false)
const keyless = ref(0)
/** Columns that never change within the key, worked out from all rows; those that the reader has ticked are checked too. */
async function findConstants(): Promise<void> {
  if (own.value.kind !== 'sql' || !splitKey.value.length) return
  splitting.value = true
  try {
    const others = own.value.columns.map(column => column.name).filter(column => !splitKey.value.includes(column))
    const { columns: found, without } = await api<{ columns: { column: string; keys: number }[]; without: number }>('/api/split', {
      method: 'POST',
      body: { definition: trial.value, answers: report.answers, table: `@${own.value.name}`, key: splitKey.value, columns: others },
    })
    constants.value = found.filter(each => each.keys === 0).map(each => each.column)
    changing.value = found.filter(each => each.keys > 0)
    keyless.value = without
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    splitting.value = false
  }
}
const problem = ref('')
const changed = computed(() => changing.value.filter(each => constants.value.includes(each.column)))
function split(): void {
  if (own.value.kind !== 'sql') return
  const flat = plain(own.value)
  const choice = { key: splitKey.value, constants: constants.value, before: name || undefined }
  report.edit(t('tablePanel.split'), definition => splitText(definition, flat, choice))
  data.index = report.definition!.dataSets.length - 1
  data.panel = undefined
}

// ── summary
const listFault = (formula: string, measure: boolean, index: number) =>
  own.value.kind === 'summary'
    ? summaryFault(formula, summaryLevels.value, report.model!.parameterTypes, measure ? own.value.measures.slice(0, index) : undefined)
    : ''
const addBy = () =>
  own.value.kind === 'summary' &&
  own.value.by.push({
    name: freeId(
      'group',
      own.value.by.map(each => each.name),
    ),
    formula: '',
  })
const addMeasure = (formula = '', named = 'measure') =>
  own.value.kind === 'summary' &&
  own.value.measures.push({
    name: freeId(
      named,
      [...own.value.measures, ...own.value.by].map(each => each.name),
      !!formula,
    ),
    formula,
  })
const fieldItems = computed(() =>
  [...(summaryLevels.value[0]?.fields.values() ?? [])].map(field => ({ label: fieldTitle(field), value: field.path, hint: field.path })),
)
const measureItems = computed(() =>
  [...(summaryLevels.value[0]?.fields.values() ?? [])]
    .filter(field => field.type === 'number' && field.role === 'measure')
    .map(field => ({ label: t('tablePanel.sumOf2', { field: fieldTitle(field).toLowerCase() }), value: field.path })),
)
function setBy(index: number, path: string): void {
  if (own.value.kind !== 'summary') return
  const others = own.value.by.filter((_, at) => at !== index).map(each => each.name)
  own.value.by[index] = {
    name: freeId(
      path.split('.').at(-1) === 'name' && path.includes('.') ? path.split('.').at(-2)! : path.replaceAll('.', '_'),
      others,
      true,
    ),
    formula: pathText(path),
  }
}

// ── stack
const sets = computed(() => report.definition!.dataSets.map(each => each.name))
function addPart(dataSet: string): void {
  if (own.value.kind === 'stack') own.value = stackedOn(report.definition!, report.model!, own.value, dataSet)
}
const rootFields = (dataSet: string) => [...(rootOf(report.definition!, report.model!, dataSet)?.fields.keys() ?? [])]
const newColumn = ref('')
/** A column more for the stack, unless it has one of that name. */
function addColumn(): void {
  const name = newColumn.value
  newColumn.value = ''
  const stack = own.value
  if (stack?.kind === 'stack' && name && name !== stack.origin && !stack.columns.includes(name)) stack.columns.push(name)
}
const stackProblems = computed(() =>
  own.value.kind === 'stack'
    ? modelOf(trial.value, report.catalog!)
        .trees[0]!.problems.filter(each => each.where === own.value.name)
        .map(each => each.sentence)
    : [],
)

const used = computed(() => (name ? report.definition!.dataSets.some(dataSet => tablesOf(dataSet.root).includes(`@${name}`)) : false))
const ready = computed(() => {
  if (nameFault.value) return false
  if (own.value.kind === 'sql') return own.value.columns.length > 0 && !fault.value && !describing.value
  if (own.value.kind === 'summary')
    return (
      own.value.by.length + own.value.measures.length > 0 &&
      own.value.by.every((each, index) => each.formula && !listFault(each.formula, false, index)) &&
      own.value.measures.every((each, index) => each.formula && !listFault(each.formula, true, index))
    )
  return own.value.parts.length > 0 && own.value.columns.length > 0 && !stackProblems.value.length
})
/** Keeps the table; a new one comes into view as a data set of its own, or under the level it was made for. */
function save(): void {
  if (!ready.value) return
  const table = plain(own.value)
  const under = parent && table.kind === 'summary' ? { level: parent, on: data.level(base)!.definition.on } : undefined
  report.edit(`${readable(table.name)}`, definition => keepTable(definition, table, { before: name || undefined, under }))
  if (!name && !(parent && table.kind === 'summary')) data.index = report.definition!.dataSets.length - 1
  data.panel = undefined
}
const titles = {
  sql: t('tablePanel.sqlText'),
  summary: parent ? t('tablePanel.derivedSet') : t('tablePanel.summary'),
  stack: t('tablePanel.stackedSets'),
}
</script>

<template>
  <DataSidePanel :title="name ? `${titles[kind]} ${name}` : titles[kind]" data-table-panel>
    <UFormField :label="t('common.name')" size="sm" :error="nameFault || undefined" eager-validation
      ><UInput v-model="own.name" size="sm" class="w-full font-mono"
    /></UFormField>
    <template v-if="own.kind === 'sql'">
      <UFormField :label="t('common.text2')" size="sm"
        ><CodeField
          v-model="sqlText"
          language="sql"
          :label="t('tablePanel.sqlText')"
          :lines="10"
          hint="select number, total from invoices where invoice_date >= :from"
          :schema="schema"
          :fault="fault"
      /></UFormField>
      <p class="text-xs text-muted">
        {{ t('tablePanel.aSelectThatOnlyReads') }}
        <code v-for="type in Object.keys(report.model!.parameterTypes)" :key="type" class="mr-1 font-mono">:{{ type }}</code>
      </p>
      <section v-if="own.columns.length">
        <h3 class="text-sm font-semibold">{{ own.columns.length }} {{ t('common.columnColumns', own.columns.length) }}</h3>
        <div class="mt-1 max-h-48 overflow-auto rounded-md border border-default bg-default py-1 text-sm" data-columns>
          <div v-for="column in own.columns" :key="column.name" class="flex gap-2 px-2">
            <span class="grow truncate">{{ column.name }}</span><span class="text-xs text-muted">{{ column.databaseType }}</span>
          </div>
        </div>
      </section>
      <section v-if="own.columns.length" class="space-y-1.5 rounded-md border border-default p-3" data-split>
        <h3 class="text-sm font-semibold">{{ t('tablePanel.splitIntoHeadersAndRows') }}</h3>
        <USelectMenu
          v-model="splitKey"
          multiple
          :items="own.columns.map(each => each.name)"
          size="sm"
          class="w-full"
          :placeholder="t('tablePanel.byWhichKeyEG')"
          :aria-label="t('tablePanel.keyOfTheSplit')"
          @update:model-value="findConstants"
        />
        <p v-if="splitting" class="text-sm text-muted">{{ t('tablePanel.lookingWhichColumnsStayThe') }}</p>
        <template v-else-if="splitKey.length">
          <p class="text-sm text-muted">{{ t('tablePanel.theseNeverChangeWithinAnd', { splitKey: splitKey.join(', ') }) }}</p>
          <div class="max-h-40 overflow-auto rounded-md border border-default bg-default px-2 py-1">
            <label
              v-for="column in own.columns.map(each => each.name).filter(each => !splitKey.includes(each))"
              :key="column"
              class="flex items-center gap-2 text-sm"
              ><input v-model="constants" type="checkbox" :value="column" class="accent-petrol-700" />{{ column
              }}<span v-if="changing.find(each => each.column === column)" class="ml-auto text-xs text-dimmed">{{
                t('tablePanel.changesIn', { keys: grouped(changing.find(each => each.column === column)!.keys) })
              }}</span></label
            >
          </div>
          <p v-for="each in changed" :key="each.column" class="text-sm text-apricot-700 dark:text-apricot-300" role="alert">
            {{
              t('tablePanel.changesWithinEachOfIts', {
                column: each.column,
                keys: grouped(each.keys),
                what: t('tablePanel.keyKeys', each.keys),
              })
            }}
          </p>
          <p v-if="keyless" class="text-sm text-apricot-700 dark:text-apricot-300" role="alert">
            {{
              t('tablePanel.noAndWouldBelongTo', {
                keyless: grouped(keyless),
                what: t('tablePanel.rowHasRowsHave', keyless),
                splitKey: splitKey.join(', '),
                what2: t('tablePanel.itThem', keyless),
              })
            }}
          </p>
          <UButton size="sm" :disabled="!ready" @click="split">{{ t('tablePanel.splitBy', { splitKey: splitKey.join(', ') }) }}</UButton>
        </template>
        <p v-if="problem" class="text-sm text-error" role="alert">{{ tell(problem) }}</p>
      </section>
    </template>
    <template v-else-if="own.kind === 'summary'">
      <p class="text-sm text-muted">
        {{ t('tablePanel.oneRowPerGroupOf') }} <b>{{ summaryLevels[0]?.definition.table.replace('@', '') ?? own.base.table }}</b>{{
          t('tablePanel.addedUpInTheDatabase')
        }}
      </p>
      <p v-for="filter in left" :key="filter" class="text-sm text-apricot-700 dark:text-apricot-300" role="status">
        {{ t('tablePanel.theFilter') }} <code class="font-mono text-xs">{{ filter }}</code> {{ t('tablePanel.ofALevelAboveCannot') }}
      </p>
      <section v-if="summaryLevels[0]">
        <h3 class="mb-1 text-sm font-semibold">{{ t('tablePanel.onlyRowsWhere') }}</h3>
        <DataFilterLine
          :level="summaryLevels[0]"
          :filters="own.base.filters"
          bare
          @change="
            filters => {
              own = { ...own, base: { ...(own as { base: LevelDefinition }).base, filters } } as WrittenTable
            }
          "
        />
      </section>
      <section class="space-y-1.5">
        <h3 class="text-sm font-semibold">{{ t('tablePanel.oneRowPer') }}</h3>
        <div v-for="(each, index) in own.by" :key="index" class="space-y-1">
          <div class="flex items-center gap-1.5">
            <UInput v-model="each.name" size="sm" class="w-28 font-mono" :aria-label="t('tablePanel.nameOfTheGroup')" />
            <USelectMenu
              v-if="!each.formula || fieldItems.some(item => item.value === each.formula)"
              :model-value="each.formula"
              :items="fieldItems"
              value-key="value"
              size="sm"
              class="min-w-0 grow"
              :placeholder="t('tablePanel.field')"
              :search-input="{ placeholder: t('common.findAField') }"
              :aria-label="t('tablePanel.groupBy')"
              @update:model-value="(path: string) => setBy(index, path)"
              ><template #item-trailing="{ item }"
                ><span class="text-xs text-dimmed">{{ item.hint }}</span></template
              ></USelectMenu
            >
            <UInput v-else v-model="each.formula" size="sm" class="min-w-0 grow font-mono" :aria-label="t('tablePanel.groupByFormula')" />
            <UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-x"
              :aria-label="t('tablePanel.takeThisGroupOut')"
              @click="own.by.splice(index, 1)"
            />
          </div>
          <p v-if="listFault(each.formula, false, index)" class="text-sm text-error" role="alert">
            {{ listFault(each.formula, false, index) }}
          </p>
        </div>
        <div class="flex gap-1">
          <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="addBy">{{ t('tablePanel.field') }}</UButton><UButton
            size="xs"
            variant="ghost"
            icon="i-lucide-plus"
            @click="
              own.by.push({
                name: freeId(
                  'group',
                  own.by.map(each => each.name),
                ),
                formula: 'year(today())',
              })
            "
            >{{ t('tablePanel.formula') }}</UButton
          >
        </div>
      </section>
      <section class="space-y-1.5">
        <h3 class="text-sm font-semibold">{{ t('tablePanel.measures') }}</h3>
        <div v-for="(each, index) in own.measures" :key="index" class="space-y-1 rounded-md border border-default p-2">
          <div class="flex items-center gap-1.5">
            <UInput v-model="each.name" size="sm" class="grow font-mono" :aria-label="t('tablePanel.nameOfTheMeasure')" /><UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-x"
              :aria-label="t('tablePanel.takeThisMeasureOut')"
              @click="own.measures.splice(index, 1)"
            />
          </div>
          <CodeField
            v-model="each.formula"
            language="formula"
            :label="t('tablePanel.formulaOfTheMeasure')"
            :lines="1"
            hint="sum(amount)"
            :proposals="[
              ...own.measures
                .slice(0, index)
                .map(other => ({ label: t('tablePanel.measure'), insert: other.name, hint: '', kind: 'field' as const })),
              ...proposals,
            ]"
            :fault="
              listFault(each.formula, true, index)
                ? { message: listFault(each.formula, true, index), from: 0, to: each.formula.length }
                : undefined
            "
          />
        </div>
        <div class="flex flex-wrap items-center gap-1">
          <USelectMenu
            :model-value="undefined"
            :items="measureItems"
            value-key="value"
            size="xs"
            class="w-40"
            :placeholder="t('tablePanel.sumOf')"
            :aria-label="t('tablePanel.addASum')"
            @update:model-value="(path: string) => addMeasure(`sum(${pathText(path)})`, path.split('.').at(-1)!)"
          /><UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="addMeasure('count(' + own.base.name + ')', 'records')">{{
            t('tablePanel.count')
          }}</UButton
          ><UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="addMeasure()">{{ t('tablePanel.formula') }}</UButton>
        </div>
        <p class="text-xs text-muted">{{ t('tablePanel.aRatioIsAFormula') }}</p>
      </section>
    </template>
    <template v-else-if="own.kind === 'stack'">
      <p class="text-sm text-muted">
        {{ t('tablePanel.rowsOfSeveralDataSets') }} <code class="font-mono text-xs">{{ own.origin }}</code>
        {{ t('tablePanel.saysWhereEachCameFrom') }}
      </p>
      <section v-for="(part, index) in own.parts" :key="index" class="space-y-1.5 rounded-md border border-default p-2">
        <div class="flex items-center gap-1.5">
          <span class="font-semibold">{{ readable(part.dataSet) }}</span><UInput
            v-model="part.label"
            size="xs"
            class="ml-auto w-32"
            :aria-label="t('tablePanel.whatItsRowsAreCalled')"
          /><UButton
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            :aria-label="t('tablePanel.takeThisSetOut')"
            @click="own.parts.splice(index, 1)"
          />
        </div>
        <div v-for="column in own.columns" :key="column" class="flex items-center gap-1.5 text-sm">
          <span class="w-28 truncate text-muted">{{ column }}</span><UInputMenu
            :model-value="part.fields[column] ?? ''"
            create-item
            :items="rootFields(part.dataSet)"
            size="xs"
            class="min-w-0 grow font-mono"
            placeholder="empty"
            :aria-label="t('tablePanel.of', { column, dataSet: part.dataSet })"
            @update:model-value="(field: string) => (part.fields[column] = field)"
            @create="(field: string) => (part.fields[column] = field)"
          />
        </div>
      </section>
      <div class="flex gap-1.5">
        <USelect
          :model-value="undefined"
          :items="sets"
          size="sm"
          class="grow"
          :placeholder="t('tablePanel.aDataSet')"
          :aria-label="t('tablePanel.addADataSet')"
          @update:model-value="set => addPart(String(set))"
        /><UInput
          v-model="newColumn"
          size="sm"
          class="w-32 font-mono"
          :placeholder="t('tablePanel.column')"
          :aria-label="t('tablePanel.addAColumn')"
          @keydown.enter.prevent="addColumn()"
        />
      </div>
      <p v-for="sentence in stackProblems" :key="sentence" class="text-sm text-error" role="alert">{{ tell(sentence) }}</p>
    </template>
    <template #footer>
      <UButton size="sm" :disabled="!ready" @click="save">{{
        name ? t('common.change') : kind === 'sql' ? t('tablePanel.addAsItIs') : t('common.add')
      }}</UButton>
      <UButton
        v-if="name"
        size="sm"
        variant="ghost"
        color="error"
        icon="i-lucide-trash-2"
        :disabled="used"
        :title="used ? t('tablePanel.aDataSetReadsIt') : ''"
        @click="
          () => {
            report.edit(t('common.remove', { name }), definition => removeTable(definition, name))
            data.panel = undefined
          }
        "
        >{{ t('common.takeOut') }}</UButton
      >
    </template>
  </DataSidePanel>
</template>
