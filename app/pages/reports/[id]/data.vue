<script setup lang="ts">
import type { FieldInfo, LevelInfo } from '../../../../core/formula/typed'
import { flatRows as flatRowsOf } from '../../../../core/formula/flatRows'
import { hasClause } from '../../../../core/formula/clauses'
import { removeCalculated, removeTotal, setFilters, setSort, tickField } from '../../../../core/definition/edits/levels'
import type { GridColumn } from '../../../components/data/RowGrid.vue'

const report = useReport()
const data = useData()
const tab = ref<'nested' | 'flat' | 'sql'>('nested')
const opened = ref(new Set<number>([0]))
const flatLevel = ref('')
const focus = ref('')
const records = computed(() => data.rows?.records)
const levels = computed(() =>
  records.value && data.tree && records.value.levels.length === data.tree.levels.length ? data.tree.levels : [],
)
const root = computed(() => levels.value[0])
const language = computed(() => report.definition!.language)
const children = (level: LevelInfo) => level.children.map(index => levels.value[index]!)
const fields = (level: LevelInfo) => shownFields(level, records.value)
const text = (level: LevelInfo, field: FieldInfo, row: number) =>
  fieldText(field, cellOf(records.value!, level.index, field.path, row), language.value)
const under = (level: LevelInfo, parent: number) => {
  const { starts } = records.value!.levels[level.index]!
  return Array.from({ length: starts[parent + 1]! - starts[parent]! }, (_, index) => starts[parent]! + index)
}
const toggle = (row: number) => (opened.value.has(row) ? opened.value.delete(row) : opened.value.add(row))
watch(
  () => data.current,
  () => {
    opened.value = new Set([0])
    focus.value = ''
  },
)

const details = computed(() => levels.value.filter(level => level.parent >= 0))
const flat = computed(() => details.value.find(level => level.name === flatLevel.value) ?? details.value[0])
const flatMost = 500
/** One row per record of a level, with the fields of all levels above it. */
const flatRows = computed(() =>
  flat.value && records.value ? flatRowsOf(levels.value, records.value, flat.value, flatMost) : { above: [], rows: [], total: 0 },
)
const gridColumns = (of: readonly LevelInfo[], faint?: LevelInfo): GridColumn[] =>
  of.flatMap(level =>
    fields(level).map(field => ({
      key: `${level.name}.${field.path}`,
      field,
      level: level.name,
      ...(faint && level !== faint ? { faint: true } : {}),
    })),
  )
const rootColumns = computed(() => (root.value ? gridColumns([root.value]) : []))
const flatColumns = computed(() => (flat.value ? gridColumns([...flatRows.value.above, flat.value], flat.value) : []))
const right = (field: FieldInfo) => field.type === 'number' && field.role !== 'key'

function sort(column: GridColumn, direction: 'up' | 'down' | 'none'): void {
  const level = data.level(column.level)!
  const others = level.definition.sort.filter(each => each.field !== column.field.path)
  report.edit(t('reportsIdDataPage.sort'), definition =>
    setSort(
      definition,
      column.level,
      direction === 'none' ? others : [{ field: column.field.path, descending: direction === 'down' }, ...others],
    ),
  )
}
function hide(column: GridColumn): void {
  const { field } = column
  if (field.dated) data.panel = { kind: 'ageing', level: column.level, name: field.dated.replace(/_from$/, '') }
  else if (field.total)
    report.edit(t('reportsIdDataPage.remove', { path: field.path }), definition => removeTotal(definition, column.level, field.path))
  else if (field.formula && data.level(column.level)!.definition.calculated?.some(each => each.name === field.path))
    report.edit(t('reportsIdDataPage.remove', { path: field.path }), definition => removeCalculated(definition, column.level, field.path))
  else
    report.edit(t('reportsIdDataPage.untick', { path: field.path }), definition =>
      tickField(definition, column.level, field.record, field.column.name, false),
    )
}
const pick = (column: GridColumn) => (data.panel = { kind: 'profile', level: column.level, path: column.field.path })

const filtered = computed(() => levels.value.find(level => level.name === focus.value) ?? root.value)
const filterItems = computed(() =>
  levels.value.map(level => ({
    label: `${level.caption}${level.definition.filters.length ? ` (${level.definition.filters.length})` : ''}`,
    value: level.name,
  })),
)
/** A clause on a level below that keeps only parents with such a record stands with the parent. */
function toParents(clause: string, not: boolean): void {
  const level = filtered.value!
  const parent = levels.value[level.parent]!
  report.edit(t('reportsIdDataPage.filter'), definition =>
    setFilters(definition, parent.name, [...parent.definition.filters, hasClause(level.name, clause, not)]),
  )
  focus.value = parent.name
}
const dropping = computed(() => (root.value?.definition.related ?? []).filter(each => each.required))
const shownCount = computed(() => records.value?.levels[0]?.count ?? 0)
const totalWords = computed(() => {
  const { rows } = data
  if (!rows || !root.value) return ''
  const all = data.counted ?? rows.total
  if (all !== undefined)
    return shownCount.value < all
      ? t('reportsIdDataPage.firstOf', { count: grouped(shownCount.value), all: counted(all, root.value.caption) })
      : counted(all, root.value.caption)
  return rows.about
    ? t('reportsIdDataPage.firstOfAbout', { count: grouped(shownCount.value), counted: counted(rows.about, root.value.caption) })
    : `first ${counted(shownCount.value, root.value.caption)}`
})
const uncounted = computed(() => data.rows && data.counted === undefined && data.rows.total === undefined)
const slow = ref(false)
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  () => data.busy,
  busy => {
    clearTimeout(timer)
    slow.value = false
    if (busy) timer = setTimeout(() => (slow.value = true), 500)
  },
)
const day = computed(() =>
  report.pinnedAt ? new Intl.DateTimeFormat(locale(), { day: 'numeric', month: 'short' }).format(report.pinnedAt) : '',
)
const repeats = computed(() => flatRows.value.above.map(level => level.caption.toLowerCase()).join(' and '))
</script>

<template>
  <div class="flex min-h-0">
    <LevelLadder v-model:focus="focus" class="bar" />
    <div class="flex min-w-0 grow flex-col bg-default">
      <div class="flex min-h-11 shrink-0 items-center gap-2 border-b border-default px-4 py-1.5">
        <span class="shrink-0 text-sm font-medium text-muted">{{ t('reportsIdDataPage.only') }}</span>
        <USelect
          v-if="levels.length > 1"
          :model-value="filtered?.name"
          :items="filterItems"
          size="xs"
          variant="soft"
          color="neutral"
          class="shrink-0"
          :aria-label="t('reportsIdDataPage.rowsThatAreFiltered')"
          @update:model-value="name => (focus = String(name))"
        />
        <span v-else class="text-sm text-muted">{{ root?.caption.toLowerCase() }}</span>
        <span class="shrink-0 text-sm font-medium text-muted">{{ t('reportsIdDataPage.where') }}</span>
        <DataFilterLine
          v-if="filtered"
          :key="filtered.name"
          :level="filtered"
          :levels="levels"
          :filters="filtered.definition.filters"
          class="grow"
          @change="filters => report.edit(t('reportsIdDataPage.filter'), definition => setFilters(definition, filtered!.name, filters))"
          @parents="toParents"
        />
        <span v-if="data.rows" class="ml-auto flex shrink-0 items-center gap-1 text-sm text-muted" data-row-count
          >{{ totalWords
          }}<UButton v-if="uncounted" size="xs" variant="ghost" @click="data.count()">{{ t('reportsIdDataPage.count') }}</UButton></span
        >
      </div>
      <Notice v-if="data.problem" :text="data.problem" kind="error"
        ><UButton size="xs" variant="outline" color="neutral" @click="data.readOther()">{{
          t('reportsIdDataPage.readAgain')
        }}</UButton></Notice
      >
      <div class="relative min-h-0 grow overflow-auto" :aria-label="t('reportsIdDataPage.rows')">
        <div
          v-if="data.busy && slow"
          :class="[
            'absolute inset-x-0 top-10 z-20 mx-auto flex w-fit items-center gap-3 rounded-md border',
            'border-default bg-default px-4 py-2 text-sm shadow-md',
          ]"
          role="status"
        >
          <UIcon name="i-lucide-loader-circle" class="size-4 animate-spin" />{{ t('reportsIdDataPage.readingTheRows')
          }}<UButton size="xs" variant="outline" color="neutral" @click="data.cancel()">{{ t('common.cancel') }}</UButton>
        </div>
        <Notice v-if="data.rows?.changes?.length" :text="data.rows.changes.join(' ')" data-source-changes />
        <p v-if="data.rows?.empty" class="p-6 font-display text-lg">{{ data.rows.empty }}</p>
        <DataRowGrid
          v-else-if="tab === 'nested' && root"
          :columns="rootColumns"
          :count="shownCount"
          :text="(column, row) => text(root!, column.field, row)"
          :opens="root.children.length > 0"
          :opened="root.children.length ? opened : undefined"
          data-nested
          @toggle="toggle"
          @sort="sort"
          @hide="hide"
          @pick="pick"
        >
          <template #default="{ row }">
            <div
              v-for="level in children(root)"
              :key="level.name"
              class="py-1 pr-3"
              :style="{
                '--level': levelColour(level.index),
                background: `color-mix(in srgb, var(--level) var(--level-tint), transparent)`,
              }"
              :data-detail="level.name"
            >
              <div class="flex items-center gap-2 px-2 py-0.5 text-xs text-muted">
                <span class="level-mark" />{{ counted(under(level, row).length, level.caption) }}
              </div>
              <table v-if="under(level, row).length" class="border-separate border-spacing-0">
                <thead>
                  <tr>
                    <th
                      v-for="field in fields(level)"
                      :key="field.path"
                      class="whitespace-nowrap px-2.5 py-0.5 text-xs font-semibold text-muted"
                      :class="right(field) ? 'text-right' : 'text-left'"
                    >
                      <button @click="pick({ key: '', field, level: level.name })">{{ fieldTitle(field) }}</button>
                    </th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="inner in under(level, row)" :key="inner">
                    <td
                      v-for="field in fields(level)"
                      :key="field.path"
                      class="max-w-96 truncate px-2.5 py-0.5"
                      :class="right(field) ? 'text-right' : ''"
                    >
                      {{ text(level, field, inner) }}
                    </td>
                  </tr>
                </tbody>
              </table>
            </div>
          </template>
        </DataRowGrid>
        <template v-else-if="tab === 'flat' && flat">
          <div class="flex items-center gap-3 border-b border-default px-4 py-1.5 text-sm">
            <span class="text-muted">{{ t('reportsIdDataPage.oneRowPerRecordOf') }}</span>
            <button
              v-for="level in details"
              :key="level.name"
              class="flex items-center gap-1.5 rounded px-2 py-0.5"
              :class="flat.name === level.name ? 'bg-elevated font-semibold' : ''"
              :style="{ '--level': levelColour(level.index) }"
              @click="flatLevel = level.name"
            >
              <span class="level-mark" />{{ level.caption }}
            </button>
            <span class="ml-auto text-apricot-700 dark:text-apricot-300" data-repeats>{{
              t('reportsIdDataPage.fieldsOfRepeatOnEach', { repeats, caption: root!.caption.toLowerCase() })
            }}</span>
          </div>
          <DataRowGrid
            :columns="flatColumns"
            :count="flatRows.rows.length"
            :text="(column, row) => text(levels[column.field.level]!, column.field, flatRows.rows[row]!.get(column.field.level)!)"
            data-flat
            @sort="sort"
            @hide="hide"
            @pick="pick"
          />
          <p v-if="flatRows.total > flatMost" class="px-4 py-2 text-sm text-muted">
            {{ t('reportsIdDataPage.theFirstOfRows', { flatMost, count: grouped(flatRows.total) }) }}
          </p>
        </template>
        <p v-else-if="tab === 'flat'" class="p-6 text-muted">{{ t('reportsIdDataPage.thereIsOnlyOneLevel') }}</p>
        <div v-else-if="tab === 'sql'" class="space-y-4 p-4">
          <p class="max-w-prose text-sm text-muted">
            {{ t('reportsIdDataPage.oneStatementPerLevelKeys') }}
          </p>
          <section v-for="(statement, index) in data.rows?.sql" :key="index">
            <h3 class="mb-1 flex items-center gap-2 text-sm font-semibold" :style="{ '--level': levelColour(Math.max(0, index - 1)) }">
              <span class="level-mark" />{{
                index ? levels[index - 1]?.caption : t('reportsIdDataPage.keysOf', { caption: root?.caption.toLowerCase() })
              }}
            </h3>
            <pre class="whitespace-pre-wrap rounded-md border border-default bg-muted p-3 font-mono text-xs leading-relaxed" data-sql>{{
              statement.replace(/ (from|left join|join|where|and|group by|order by) /g, '\n$1 ')
            }}</pre>
          </section>
        </div>
      </div>
      <div class="bar flex h-11 shrink-0 items-center gap-1 border-t border-default px-4">
        <button
          v-for="each in ['nested', 'flat', 'sql'] as const"
          :key="each"
          class="rounded-md px-3 py-1 text-sm font-medium"
          :class="
            tab === each ? 'bg-petrol-100 text-petrol-800 dark:bg-petrol-900 dark:text-petrol-100' : 'text-muted hover:text-highlighted'
          "
          :aria-pressed="tab === each"
          @click="tab = each"
        >
          {{ each === 'sql' ? t('reportsIdDataPage.sql') : each === 'flat' ? t('reportsIdDataPage.flat') : t('reportsIdDataPage.nested') }}
        </button>
        <span v-if="dropping.length" class="pl-3 text-sm text-apricot-700 dark:text-apricot-300">{{
          t('reportsIdDataPage.rowsWithoutAreDropped', { map: dropping.map(each => each.name.replaceAll('_', ' ')).join(', ') })
        }}</span>
        <span class="ml-auto flex items-center gap-3 text-sm text-muted"
          ><UIcon v-if="data.busy" name="i-lucide-loader-circle" class="size-4 animate-spin" />{{
            data.rows && data.rows.sql.length ? t('reportsIdDataPage.statementsMs', { count: data.rows.sql.length, ms: data.rows.ms }) : ''
          }}
          <UButton
            v-if="data.current === 0"
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-pin"
            @click="data.panel = data.panel?.kind === 'pinned' ? undefined : { kind: 'pinned' }"
            >{{ t('reportsIdDataPage.pinned', { shownCount, what: day ? `, ${day}` : '' }) }}</UButton
          ></span
        >
      </div>
    </div>
    <template v-if="data.panel && data.tree">
      <DataProfilePanel v-if="data.panel.kind === 'profile'" :level="data.panel.level" :path="data.panel.path" />
      <DataJoinPanel
        v-else-if="data.panel.kind === 'join'"
        :key="`${data.panel.level} ${data.panel.record}`"
        :level="data.panel.level"
        :record="data.panel.record"
      />
      <DataRelatedPanel v-else-if="data.panel.kind === 'related'" :level="data.panel.level" :record="data.panel.record" />
      <DataCalculatedPanel
        v-else-if="data.panel.kind === 'calculated'"
        :key="data.panel.name"
        :level="data.panel.level"
        :name="data.panel.name"
      />
      <DataTotalPanel v-else-if="data.panel.kind === 'total'" :key="data.panel.name" :level="data.panel.level" :name="data.panel.name" />
      <DataTablePanel
        v-else-if="data.panel.kind === 'table'"
        :key="`${data.panel.table} ${data.panel.name} ${data.panel.base}`"
        :table="data.panel.table"
        :name="data.panel.name"
        :base="data.panel.base"
        :parent="data.panel.parent"
      />
      <DataAgeingPanel
        v-else-if="data.panel.kind === 'ageing'"
        :key="`ages ${data.panel.level} ${data.panel.name}`"
        :level="data.panel.level"
        :name="data.panel.name"
      />
      <DataNestedPanel v-else-if="data.panel.kind === 'nested'" :block="data.panel.block" />
      <DataLedgerPanel v-else-if="data.panel.kind === 'ledger'" :key="`books ${data.panel.name}`" :name="data.panel.name" />
      <DataElsewherePanel v-else-if="data.panel.kind === 'elsewhere'" :key="`other ${data.panel.name}`" :name="data.panel.name" />
      <DataOpenItemsPanel v-else-if="data.panel.kind === 'openItems'" :key="`open ${data.panel.name}`" :name="data.panel.name" />
      <DataPinnedPanel v-else />
    </template>
  </div>
</template>
