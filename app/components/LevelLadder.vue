<script setup lang="ts">
import { addBooks } from '../../core/definition/edits/books'
import { singular } from '../../core/catalog/relations'
import { columnCaption, findTable, readable } from '../../core/catalog/types'
import type { LevelInfo } from '../../core/formula/typed'
import { addDataSet, removeDataSet } from '../../core/definition/edits/dataSets'
import { removeDetail, removeRelated, setLevel, tickField } from '../../core/definition/edits/levels'
import type { RelatedDefinition } from '../../core/definition/levels'
import type { TableDefinition } from '../../core/definition/tables'

interface LadderRecord {
  path: string
  name: string
  table: string
  fields: string[]
  depth: number
  required?: boolean
  filtered: boolean
}

const report = useReport()
const sources = useSources()
const data = useData()
const search = ref('')
const open = ref(new Set<string>())
const withKeys = ref(new Set<string>())
const levels = computed(() => data.tree?.levels ?? [])
const problems = computed(() => data.tree?.problems ?? [])
const focus = defineModel<string>('focus', { required: true })

function recordsOf(level: LevelInfo): LadderRecord[] {
  const list: LadderRecord[] = [
    {
      path: '',
      name: level.caption,
      table: level.definition.table,
      fields: level.definition.fields,
      depth: 0,
      filtered: level.definition.filters.length > 0,
    },
  ]
  const visit = (related: RelatedDefinition[], above: string, depth: number) => {
    for (const each of related) {
      const path = above ? `${above}.${each.name}` : each.name
      list.push({
        path,
        name: each.name,
        table: each.table,
        fields: each.fields,
        depth,
        ...(each.required ? { required: true } : {}),
        filtered: !!each.filters?.length || !!each.pick,
      })
      visit(each.related, path, depth + 1)
    }
  }
  visit(level.definition.related, '', 1)
  return list
}
const depth = (level: LevelInfo): number => (level.parent < 0 ? 0 : depth(levels.value[level.parent]!) + 1)
const fieldsOf = (level: LevelInfo, record: LadderRecord) =>
  [...level.fields.values()].filter(
    field =>
      field.record === record.path &&
      !field.total &&
      !field.dated &&
      !(field.formula && level.definition.calculated?.some(each => each.name === field.path)),
  )
const sharedOf = (level: LevelInfo, record: LadderRecord) =>
  record.path ? [] : (findTable(report.model!.catalog, record.table)?.calculated ?? []).filter(each => !level.fields.has(each.name))
const worked = (level: LevelInfo) =>
  [...level.fields.values()].filter(
    field => field.total || (field.formula && level.definition.calculated?.some(each => each.name === field.path)),
  )
const keyOf = (level: LevelInfo, record: LadderRecord) => `${level.name}/${record.path}`
function matching(level: LevelInfo, record: LadderRecord) {
  const wanted = search.value.trim().toLowerCase()
  return fieldsOf(level, record).filter(field =>
    wanted
      ? `${field.path} ${field.caption} ${field.column.comment ?? ''} ${record.name}`.toLowerCase().includes(wanted)
      : field.role !== 'key' || record.fields.includes(field.column.name) || withKeys.value.has(keyOf(level, record)),
  )
}
const keysHidden = (level: LevelInfo, record: LadderRecord) =>
  fieldsOf(level, record).filter(field => field.role === 'key' && !record.fields.includes(field.column.name)).length
const isOpen = (level: LevelInfo, record: LadderRecord) =>
  search.value.trim() ? matching(level, record).length > 0 : open.value.has(keyOf(level, record))
const toggle = (level: LevelInfo, record: LadderRecord) => {
  const key = keyOf(level, record)
  if (open.value.has(key)) open.value.delete(key)
  else open.value.add(key)
}
const singleOf = (level: LevelInfo) => singular(level.caption.toLowerCase())
const tick = (level: LevelInfo, record: LadderRecord, column: string, on: boolean) =>
  report.edit(`${on ? t('levelLadder.tick') : t('levelLadder.untick')} ${column}`, definition =>
    tickField(definition, level.name, record.path, column, on),
  )

function remove(level: LevelInfo, record: LadderRecord): void {
  if (record.path) report.edit(t('common.remove', { name: record.name }), definition => removeRelated(definition, level.name, record.path))
  else report.edit(t('common.remove', { name: level.name }), definition => removeDetail(definition, level.name))
  data.panel = undefined
}
const renaming = ref('')
/** the level that is to read another table, such as a text or a summary of this report */
const replacing = ref('')
const menu = (level: LevelInfo) => [
  [
    {
      label: t('levelLadder.calculatedField'),
      icon: 'i-lucide-square-function',
      onSelect: () => {
        data.panel = { kind: 'calculated', level: level.name }
      },
    },
    {
      label: t('levelLadder.agesInColumns'),
      icon: 'i-lucide-calendar-range',
      onSelect: () => {
        data.panel = { kind: 'ageing', level: level.name }
      },
    },
    {
      label: t('levelLadder.childTotal'),
      icon: 'i-lucide-sigma',
      onSelect: () => {
        data.panel = { kind: 'total', level: level.name }
      },
    },
    {
      label: t('levelLadder.filterTheseRows'),
      icon: 'i-lucide-filter',
      onSelect: () => {
        focus.value = level.name
      },
    },
  ],
  [
    {
      label: t('levelLadder.summaryOfIt'),
      icon: 'i-lucide-group',
      onSelect: () => {
        data.panel = { kind: 'table', table: 'summary', base: level.name }
      },
    },
    ...(level.parent >= 0
      ? [
          {
            label: t('levelLadder.derivedSetPer', { singleOf: singleOf(levels.value[level.parent]!) }),
            icon: 'i-lucide-table-rows-split',
            onSelect: () => {
              data.panel = { kind: 'table', table: 'summary', base: level.name, parent: levels.value[level.parent]!.name }
            },
          },
        ]
      : []),
  ],
  [
    {
      label: t('levelLadder.readFromAnotherTable'),
      icon: 'i-lucide-replace',
      onSelect: () => {
        replacing.value = level.name
      },
    },
    {
      label: t('common.rename'),
      icon: 'i-lucide-pencil',
      onSelect: () => {
        renaming.value = level.name
      },
    },
    ...(level.parent >= 0
      ? [
          {
            label: t('common.takeOut'),
            icon: 'i-lucide-trash-2',
            color: 'error' as const,
            onSelect: () => remove(level, recordsOf(level)[0]!),
          },
        ]
      : []),
  ],
]

/** Fields of the same name stay ticked; what the other table lacks is told as a problem where it is used. */
function replace(level: LevelInfo, table: string): void {
  replacing.value = ''
  const columns = new Set((findTable(report.model!.catalog, table)?.columns ?? []).map(column => column.name))
  const kept = level.definition.fields.filter(field => columns.has(field))
  report.edit(t('levelLadder.captionFromTable', { caption: level.caption, table }), definition =>
    setLevel(definition, level.name, { table, fields: kept.length ? kept : [...columns].slice(0, 6) }),
  )
}

const finding = ref(false)
function addTable(table: string): void {
  finding.value = false
  const fields = (findTable(report.model!.catalog, table)?.columns ?? [])
    .filter(column => !/(^|_)id$/.test(column.name))
    .slice(0, 6)
    .map(column => column.name)
  const name = singular(table.replace(/\W+/g, ''))
  report.edit(t('levelLadder.dataSetOf', { table }), definition =>
    addDataSet(definition, table.replace(/\W+/g, ''), {
      name,
      caption: readable(name),
      table,
      on: [],
      fields,
      related: [],
      details: [],
      filters: [],
      sort: [],
    }),
  )
  data.index = report.definition!.dataSets.length - 1
}
const setMenu = computed(() => [
  [
    {
      label: t('levelLadder.fromATable'),
      icon: 'i-lucide-table-2',
      onSelect: () => {
        finding.value = true
      },
    },
    {
      label: t('levelLadder.fromAnSqlText'),
      icon: 'i-lucide-file-code-2',
      onSelect: () => {
        data.panel = { kind: 'table', table: 'sql' }
      },
    },
    ...(report.catalog?.ledger && !report.definition!.tables?.some(each => each.kind === 'ledger')
      ? [
          {
            label: t('levelLadder.theBooksForStatements'),
            icon: 'i-lucide-book-open',
            onSelect: () => report.edit(t('common.theBooks'), now => addBooks(now).report),
          },
        ]
      : []),
    ...(sources.list.length > 1
      ? [
          {
            label: t('levelLadder.tableOfAnotherSource'),
            icon: 'i-lucide-database',
            onSelect: () => {
              data.panel = { kind: 'elsewhere' }
            },
          },
        ]
      : []),
    {
      label: t('levelLadder.openItemsAsOfA'),
      icon: 'i-lucide-hourglass',
      onSelect: () => {
        data.panel = { kind: 'openItems' }
      },
    },
    {
      label: t('levelLadder.stackedFromSeveralSets'),
      icon: 'i-lucide-layers',
      onSelect: () => {
        data.panel = { kind: 'table', table: 'stack' }
      },
    },
  ],
])
const kinds = {
  sql: t('levelLadder.sqlText'),
  summary: 'summary',
  stack: t('levelLadder.stackedSets'),
  openItems: t('levelLadder.openItems'),
  ledger: t('levelLadder.theBooks'),
  elsewhere: t('levelLadder.anotherSource'),
}
const openTable = (table: TableDefinition) =>
  (data.panel =
    table.kind === 'openItems' || table.kind === 'ledger' || table.kind === 'elsewhere'
      ? { kind: table.kind, name: table.name }
      : { kind: 'table', table: table.kind, name: table.name })
const tableItems = computed(() =>
  report.model!.catalog.tables.map(table => ({
    label: table.name.startsWith('@') ? t('common.ofThisReport', { readable: readable(table.name) }) : readable(table.name),
    value: table.name,
    hint: table.comment ?? '',
  })),
)
const typeWord = (type: string) => (type === 'boolean' ? t('levelLadder.yesNo') : tell(type))
</script>

<template>
  <aside class="flex w-[316px] shrink-0 flex-col border-r border-default" :aria-label="t('levelLadder.levels')">
    <div class="flex items-center justify-between gap-2 px-4 pb-1.5 pt-3">
      <h2 class="font-display text-base font-semibold">{{ t('levelLadder.levels') }}</h2>
      <UDropdownMenu :items="setMenu"
        ><UButton size="xs" variant="ghost" icon="i-lucide-plus">{{ t('levelLadder.dataSet') }}</UButton></UDropdownMenu
      >
    </div>
    <div class="flex items-center gap-1.5 px-4 pb-2 text-sm text-muted" data-source-line>
      <UIcon name="i-lucide-database" class="size-3.5 shrink-0" />
      <span class="min-w-0 truncate" :title="sources.current?.name">{{
        sources.current?.of ? sources.all.find(each => each.id === sources.current?.of)?.name : sources.current?.name
      }}</span>
      <UTooltip :text="t('levelLadder.swapSourcePointTheReport')"
        ><UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-arrow-right-left"
          class="ml-auto shrink-0 whitespace-nowrap"
          :to="`/reports/${report.id}/source`"
          >{{ t('levelLadder.swapSource') }}</UButton
        ></UTooltip
      >
    </div>
    <USelectMenu
      v-if="finding"
      :model-value="undefined"
      :items="tableItems"
      value-key="value"
      size="sm"
      default-open
      class="mx-3 mb-2"
      :placeholder="t('levelLadder.whichTable')"
      :search-input="{ placeholder: t('common.findATable') }"
      :aria-label="t('levelLadder.tableOfTheDataSet')"
      @update:model-value="(table: string) => addTable(table)"
    />
    <div
      v-if="report.definition!.dataSets.length > 1"
      class="flex flex-wrap gap-1 px-3 pb-2"
      role="tablist"
      :aria-label="t('levelLadder.dataSets')"
    >
      <button
        v-for="(set, index) in report.definition!.dataSets"
        :key="set.name"
        role="tab"
        :aria-selected="data.current === index"
        class="group flex items-center gap-1 rounded-md border px-2 py-0.5 text-sm"
        :class="
          data.current === index
            ? 'border-petrol-500 bg-petrol-100 font-semibold text-petrol-800 dark:bg-petrol-900 dark:text-petrol-100'
            : 'border-default text-muted hover:text-highlighted'
        "
        @click="data.index = index"
      >
        {{ readable(set.name)
        }}<UIcon
          v-if="index && data.current === index"
          name="i-lucide-x"
          class="size-3"
          role="button"
          :aria-label="t('levelLadder.takeOutDataSet', { name: set.name })"
          @click.stop="
            () => {
              report.edit(t('common.remove', { name: set.name }), definition => removeDataSet(definition, set.name))
              data.index = 0
            }
          "
        />
      </button>
    </div>
    <div class="px-3 pb-2">
      <UInput
        v-model="search"
        size="sm"
        :placeholder="t('common.findAField')"
        icon="i-lucide-search"
        class="w-full"
        :aria-label="t('common.findAField')"
      />
    </div>
    <div class="grow space-y-2.5 overflow-auto px-3 pb-4">
      <p
        v-for="problem in problems"
        :key="problem.sentence"
        class="rounded-md bg-brick-50 p-2 text-sm text-brick-800 dark:bg-brick-950 dark:text-brick-200"
        role="alert"
      >
        {{ tell(problem.sentence) }}
      </p>
      <template v-for="level in levels" :key="level.name">
        <section
          class="rounded-md border border-default bg-default py-2 pr-1.5"
          :style="{
            '--level': levelColour(level.index),
            marginLeft: `${depth(level) * 16}px`,
            borderLeft: '4px solid var(--level)',
            paddingLeft: '8px',
          }"
          :aria-label="t('levelLadder.level', { caption: level.caption })"
          :data-level="level.name"
        >
          <USelectMenu
            v-if="replacing === level.name"
            :model-value="level.definition.table"
            :items="tableItems"
            value-key="value"
            size="sm"
            default-open
            class="mb-1 w-full"
            :search-input="{ placeholder: t('common.findATable') }"
            :aria-label="t('levelLadder.tableOf', { caption: level.caption })"
            @update:model-value="(table: string) => replace(level, table)"
          />
          <template v-for="record in recordsOf(level)" :key="record.path">
            <div class="group flex items-center gap-0.5" :style="{ paddingLeft: `${record.depth * 14}px` }">
              <UInput
                v-if="record.path === '' && renaming === level.name"
                :model-value="level.caption"
                size="xs"
                autofocus
                class="grow"
                :aria-label="t('levelLadder.nameOfTheLevel')"
                @keydown.enter="($event.target as HTMLInputElement).blur()"
                @blur="
                  $event => {
                    report.edit(t('common.rename'), definition =>
                      setLevel(definition, level.name, { caption: ($event.target as HTMLInputElement).value }),
                    )
                    renaming = ''
                  }
                "
              />
              <button
                v-else
                class="flex min-w-0 grow items-center gap-1.5 rounded py-0.5 text-left"
                :aria-expanded="isOpen(level, record)"
                :aria-label="t('levelLadder.fieldsOf', { what: record.path || level.caption })"
                @click="toggle(level, record)"
              >
                <UIcon
                  name="i-lucide-chevron-right"
                  class="size-3 shrink-0 text-dimmed transition-transform"
                  :class="isOpen(level, record) ? 'rotate-90' : ''"
                />
                <span v-if="record.path === ''" class="truncate font-semibold">{{ level.caption }}</span>
                <span v-else class="truncate">{{ readable(record.name).toLowerCase() }}</span>
                <UIcon
                  v-if="record.filtered && record.path"
                  name="i-lucide-filter"
                  class="size-3 shrink-0 text-apricot-600"
                  :title="t('levelLadder.itHasAFilterOr')"
                />
                <span v-if="record.required" class="shrink-0 text-xs text-apricot-700 dark:text-apricot-300">{{
                  t('levelLadder.required')
                }}</span>
                <span class="ml-auto shrink-0 pl-2 text-xs text-muted">{{
                  record.path === ''
                    ? t('levelLadder.oneRowPer', { level: singleOf(level) })
                    : t('levelLadder.of', { count: record.fields.length, count2: fieldsOf(level, record).length })
                }}</span>
              </button>
              <UButton
                size="xs"
                variant="ghost"
                color="primary"
                icon="i-lucide-plus"
                :aria-label="t('levelLadder.joinTo', { what: record.path || level.caption })"
                class="size-[24px] justify-center p-0"
                @click="data.panel = { kind: 'join', level: level.name, record: record.path }"
              />
              <UDropdownMenu v-if="record.path === ''" :items="menu(level)"
                ><UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-ellipsis"
                  :aria-label="t('levelLadder.menuOf', { caption: level.caption })"
                  class="size-[24px] justify-center p-0"
              /></UDropdownMenu>
              <template v-else>
                <UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-sliders-horizontal"
                  :aria-label="t('levelLadder.howIsFound', { path: record.path })"
                  class="size-[24px] justify-center p-0 opacity-0 focus:opacity-100 group-hover:opacity-100"
                  @click="data.panel = { kind: 'related', level: level.name, record: record.path }"
                />
                <UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-x"
                  :aria-label="t('levelLadder.remove', { path: record.path })"
                  class="size-[24px] justify-center p-0 opacity-0 focus:opacity-100 group-hover:opacity-100"
                  @click="remove(level, record)"
                />
              </template>
            </div>
            <div v-if="isOpen(level, record)" class="pb-1" :style="{ paddingLeft: `${record.depth * 14 + 16}px` }">
              <div
                v-for="field in matching(level, record)"
                :key="field.path"
                class="flex items-center gap-2 rounded px-1 py-px text-sm hover:bg-elevated"
                :title="field.column.comment"
              >
                <input
                  type="checkbox"
                  class="accent-petrol-700"
                  :checked="record.fields.includes(field.column.name)"
                  :aria-label="field.caption"
                  @change="tick(level, record, field.column.name, ($event.target as HTMLInputElement).checked)"
                />
                <button
                  class="min-w-0 grow truncate text-left"
                  @click="data.panel = { kind: 'profile', level: level.name, path: field.path }"
                >
                  {{ columnCaption(field.column) === field.caption ? field.caption : field.caption }}
                </button>
                <span class="text-xs text-dimmed">{{ field.role === 'key' ? t('levelLadder.key') : typeWord(field.type) }}</span>
              </div>
              <label
                v-for="field in sharedOf(level, record)"
                :key="field.name"
                class="flex cursor-pointer items-center gap-2 rounded px-1 py-px text-sm hover:bg-elevated"
                :title="field.formula"
                ><input type="checkbox" class="accent-petrol-700" @change="tick(level, record, field.name, true)" /><span
                  class="truncate"
                  >{{ readable(field.name) }}</span
                ><span class="ml-auto text-xs text-dimmed">{{ t('levelLadder.ofTheSource') }}</span></label
              >
              <button
                v-if="!search && !withKeys.has(keyOf(level, record)) && keysHidden(level, record)"
                class="px-1 text-xs text-muted hover:text-highlighted"
                @click="withKeys.add(keyOf(level, record))"
              >
                {{ t('levelLadder.and', { level: keysHidden(level, record), what: t('levelLadder.keyKeys', keysHidden(level, record)) }) }}
              </button>
            </div>
          </template>
          <button
            v-for="field in worked(level)"
            :key="field.path"
            class="ml-4 flex w-[calc(100%-1rem)] items-center gap-1.5 rounded px-1 py-px text-left text-sm hover:bg-elevated"
            :data-worked="field.path"
            @click="
              data.panel = field.total
                ? { kind: 'total', level: level.name, name: field.path }
                : { kind: 'calculated', level: level.name, name: field.path }
            "
          >
            <UIcon
              :name="field.total ? 'i-lucide-sigma' : 'i-lucide-square-function'"
              class="size-3.5 shrink-0"
              :style="{ color: 'var(--level)' }"
            /><span class="truncate">{{ field.caption }}</span
            ><span class="ml-auto text-xs text-dimmed">{{ typeWord(field.type) }}</span>
          </button>
          <button
            v-for="each in level.definition.ageings"
            :key="each.name"
            class="ml-4 flex w-[calc(100%-1rem)] items-center gap-1.5 rounded px-1 py-px text-left text-sm hover:bg-elevated"
            :data-ages="each.name"
            @click="data.panel = { kind: 'ageing', level: level.name, name: each.name }"
          >
            <UIcon name="i-lucide-calendar-range" class="size-3.5 shrink-0" :style="{ color: 'var(--level)' }" /><span class="truncate">{{
              t('levelLadder.ages', { name: each.name })
            }}</span
            ><span class="ml-auto text-xs text-dimmed">{{ t('levelLadder.columns', { count: each.columns.length }) }}</span>
          </button>
          <p class="pl-4 pt-0.5 text-xs text-muted">
            {{
              t('levelLadder.ofFieldsTicked', {
                count: level.definition.fields.length,
                count2: fieldsOf(level, recordsOf(level)[0]!).length,
              })
            }}
          </p>
        </section>
        <DataNestedLevels v-if="!data.current" :level="level.name" :indent="depth(level) + 1" />
      </template>
      <DataNestedLevels v-if="!data.current" :indent="0" />
      <section v-if="report.definition!.tables?.length" :aria-label="t('levelLadder.tablesOfThisReport')">
        <h3 class="px-1 pb-1 text-xs font-semibold text-muted">{{ t('levelLadder.tablesOfThisReport') }}</h3>
        <button
          v-for="table in report.definition!.tables"
          :key="table.name"
          class="flex w-full items-center gap-2 rounded px-1 py-0.5 text-left text-sm hover:bg-elevated"
          @click="openTable(table)"
        >
          <UIcon
            :name="
              {
                sql: 'i-lucide-file-code-2',
                summary: 'i-lucide-group',
                stack: 'i-lucide-layers',
                openItems: 'i-lucide-hourglass',
                ledger: 'i-lucide-book-open',
                elsewhere: 'i-lucide-database',
              }[table.kind]
            "
            class="size-4 text-muted"
          />{{ readable(table.name) }}<span class="ml-auto text-xs text-dimmed">{{ kinds[table.kind] }}</span>
        </button>
      </section>
    </div>
  </aside>
</template>
