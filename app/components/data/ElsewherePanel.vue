<script setup lang="ts">
import type { Catalog } from '../../../core/books/catalog'
import { columnCaption, findTable, readable } from '../../../core/catalog/types'
import { addDataSet, putTable, removeTable } from '../../../core/definition/edits/dataSets'
import { blankLevel, tableNames } from '../../../core/definition/edits/ownTables'
import { freeId } from '../../../core/definition/names'
import type { ElsewhereTable } from '../../../core/definition/tables'
import { tableLevel } from '../../../core/model/levels'
import { tablesOf } from '../../../core/model/model'

/** A table of another source, beside those of the source that the report stands on. */
const { name = undefined } = defineProps<{ name?: string | undefined }>()
const report = useReport()
const data = useData()
const sources = useSources()

const kept = report.definition!.tables?.find((each): each is ElsewhereTable => each.name === name && each.kind === 'elsewhere')
const own = ref<ElsewhereTable>(
  kept ? structuredClone(toRaw(kept)) : { kind: 'elsewhere', name: '', source: '', table: '', columns: [], key: [], filters: [] },
)
const others = computed(() =>
  sources.list.filter(each => each.id !== (sources.current?.of ?? sources.current?.id)).map(each => ({ label: each.name, value: each.id })),
)
const catalog = shallowRef<Catalog>()
const problem = ref('')
async function look(source: string): Promise<void> {
  if (source !== own.value.source) own.value = { ...own.value, source, table: '', columns: [], key: [], filters: [] }
  try {
    problem.value = ''
    catalog.value = await api<Catalog>(`/api/sources/${encodeURIComponent(source)}/catalog`)
  } catch (error) {
    problem.value = (error as Error).message
  }
}
if (kept) void look(kept.source)
else if (others.value.length === 1) void look(others.value[0]!.value)

const table = computed(() => catalog.value && findTable(catalog.value, own.value.table))
const level = computed(() => table.value && tableLevel({ ...table.value, columns: table.value.columns }, own.value.table))
function choose(wanted: string): void {
  const found = findTable(catalog.value!, wanted)!
  own.value = { ...own.value, table: wanted, columns: [], filters: [], key: found.primaryKey }
  for (const column of found.columns) tick(column.name, true)
  if (!kept) own.value.name = freeId(wanted.toLowerCase().replace(/[^a-z0-9_]+/g, '_'), tableNames(report.definition!), true)
}
function tick(column: string, wanted: boolean): void {
  const all = table.value ?? findTable(catalog.value!, own.value.table)!
  const names = new Set(own.value.columns.map(each => each.name))
  if (wanted) names.add(column)
  else names.delete(column)
  own.value.columns = all.columns
    .filter(each => names.has(each.name))
    .map(({ name: called, type, scale, databaseType }) => ({ name: called, type, databaseType, ...(scale === undefined ? {} : { scale }) }))
  own.value.key = all.primaryKey.every(each => names.has(each)) ? all.primaryKey : []
}
const taken = computed(() => own.value.name !== name && tableNames(report.definition!).includes(own.value.name))
const ready = computed(() => own.value.columns.length > 0 && /^[\p{L}_][\p{L}\p{N}_]*$/u.test(own.value.name) && !taken.value)
const used = computed(() => (name ? report.definition!.dataSets.some(set => tablesOf(set.root).includes(`@${name}`)) : false))

function save(asSet: boolean): void {
  const next = structuredClone(toRaw(own.value))
  report.edit(name ? t('elsewherePanel.change', { name }) : t('elsewherePanel.add', { name: next.name }), now => {
    const put = putTable(now, next, name)
    return asSet
      ? addDataSet(put, `${next.name}_rows`, { ...blankLevel(next.name, `@${next.name}`), fields: next.columns.map(each => each.name) })
      : put
  })
  if (asSet) data.index = report.definition!.dataSets.length - 1
  data.panel = undefined
}
</script>

<template>
  <DataSidePanel :title="t('elsewherePanel.tableOfAnotherSource')" data-elsewhere>
    <p class="text-sm text-muted">
      {{ t('elsewherePanel.itsRowsAreReadFirst') }}
    </p>
    <div>
      <label class="mb-1 block text-sm font-semibold">{{ t('common.source') }}</label>
      <USelect
        :model-value="own.source"
        :items="others"
        size="sm"
        class="w-full"
        :placeholder="t('elsewherePanel.chooseASource')"
        :aria-label="t('elsewherePanel.sourceOfTheTable')"
        @update:model-value="look(String($event))"
      />
    </div>
    <div v-if="catalog">
      <label class="mb-1 block text-sm font-semibold">{{ t('common.table') }}</label>
      <USelectMenu
        :model-value="own.table"
        :items="catalog.tables.map(each => ({ label: readable(each.name), value: each.name }))"
        value-key="value"
        size="sm"
        class="w-full"
        :placeholder="t('elsewherePanel.chooseATable')"
        :search-input="{ placeholder: t('common.findATable') }"
        :aria-label="t('elsewherePanel.tableOfTheOtherSource')"
        @update:model-value="choose(String($event))"
      />
    </div>
    <template v-if="table">
      <div>
        <label class="mb-1 block text-sm font-semibold" for="elsewhere-name">{{ t('elsewherePanel.itsNameInThisReport') }}</label>
        <UInput id="elsewhere-name" v-model="own.name" size="sm" class="w-full" />
        <p v-if="taken" class="mt-1 text-sm text-error">{{ t('elsewherePanel.aTableOfTheReport') }}</p>
      </div>
      <fieldset>
        <legend class="mb-1 text-sm font-semibold">{{ t('common.columns') }}</legend>
        <div v-for="column in table.columns" :key="column.name" class="py-0.5">
          <UCheckbox
            size="sm"
            :model-value="own.columns.some(each => each.name === column.name)"
            :label="columnCaption(column)"
            @update:model-value="tick(column.name, $event === true)"
          />
        </div>
      </fieldset>
      <div>
        <h3 class="mb-1 text-sm font-semibold">{{ t('common.onlyWhere') }}</h3>
        <DataFilterLine v-if="level" :level="level" :filters="own.filters" bare @change="filters => (own.filters = filters)" />
      </div>
    </template>
    <p v-if="problem" class="text-sm text-error" role="alert">{{ tell(problem) }}</p>
    <template #footer>
      <UButton size="sm" :disabled="!ready" @click="save(false)">{{ name ? t('common.change') : t('elsewherePanel.addToJoin') }}</UButton>
      <UButton v-if="!name" size="sm" variant="outline" :disabled="!ready" @click="save(true)">{{
        t('elsewherePanel.addAsADataSet')
      }}</UButton>
      <UButton
        v-if="name"
        size="sm"
        variant="ghost"
        color="error"
        icon="i-lucide-trash-2"
        class="ml-auto"
        :disabled="used"
        :title="used ? t('common.aLevelReadsItLet') : ''"
        @click="
          () => {
            report.edit(t('common.remove', { name }), now => removeTable(now, name!))
            data.panel = undefined
          }
        "
        >{{ t('common.takeOut') }}</UButton
      >
    </template>
  </DataSidePanel>
</template>
