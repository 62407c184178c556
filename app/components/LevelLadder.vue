<script setup lang="ts">
import { type Relation, relationsOf, singular } from '../../core/catalog/relations'
import { findTable, readable } from '../../core/catalog/types'
import type { LevelInfo } from '../../core/dataset/levels'
import { addDetail, addRelated, removeDetail, removeRelated, tickField } from '../../core/definition/edits'
import type { RelatedDefinition } from '../../core/definition/types'

interface LadderRecord { path: string, name: string, table: string, fields: string[], depth: number }

const report = useReport()
const search = ref('')
const open = ref(new Set<string>())
const levels = computed(() => report.tree?.levels ?? [])
const problems = computed(() => report.tree?.problems ?? [])

function recordsOf(level: LevelInfo): LadderRecord[] {
  const list: LadderRecord[] = [{ path: '', name: level.caption, table: level.definition.table, fields: level.definition.fields, depth: 0 }]
  const visit = (related: RelatedDefinition[], above: string, depth: number) => {
    for (const each of related) {
      const path = above ? `${above}.${each.name}` : each.name
      list.push({ path, name: each.name, table: each.table, fields: each.fields, depth })
      visit(each.related, path, depth + 1)
    }
  }
  visit(level.definition.related, '', 1)
  return list
}
const depth = (level: LevelInfo): number => level.parent < 0 ? 0 : depth(levels.value[level.parent]!) + 1
const columnsOf = (record: LadderRecord) => findTable(report.catalog!, record.table)?.columns ?? []
const matching = (record: LadderRecord) => {
  const wanted = search.value.trim().toLowerCase()
  return columnsOf(record).filter(column => !wanted || `${column.name} ${readable(column.name)} ${column.comment ?? ''} ${record.name}`.toLowerCase().includes(wanted))
}
const isOpen = (level: LevelInfo, record: LadderRecord) => search.value.trim() ? matching(record).length > 0 : open.value.has(`${level.name}/${record.path}`)
const toggle = (level: LevelInfo, record: LadderRecord) => {
  const key = `${level.name}/${record.path}`
  if (open.value.has(key)) open.value.delete(key)
  else open.value.add(key)
}
const singleOf = (level: LevelInfo) => singular(level.caption.toLowerCase())

function relations(level: LevelInfo, record: LadderRecord): (Relation & { sentence: string, hint: string })[] {
  return relationsOf(report.catalog!, record.table).filter(relation => record.path === '' || relation.direction === 'related').map((relation) => {
    const table = findTable(report.catalog!, relation.table)
    const owner = record.path ? record.name.replaceAll('_', ' ') : singleOf(level)
    return {
      ...relation,
      sentence: `${readable(relation.name.split('_by_')[0]!)} of this ${owner}${relation.name.includes('_by_') ? `, where it is the ${relation.name.split('_by_')[1]!.replaceAll('_', ' ')}` : ''}`,
      hint: [relation.direction === 'related' ? 'one at most' : 'many', table?.comment ?? relation.table, ...(isJoined(level, record, relation) ? ['joined already'] : [])].join(' · '),
    }
  })
}

/** Is the same table joined here by the same columns? */
function isJoined(level: LevelInfo, record: LadderRecord, relation: Relation): boolean {
  const inner = record.path ? record.path.split('.').reduce((found, name) => found.find(each => each.name === name)?.related ?? [], level.definition.related) : level.definition.related
  return [...inner, ...(record.path ? [] : level.definition.details)].some(each => each.table === relation.table && JSON.stringify(each.on) === JSON.stringify(relation.on))
}

/** The few columns that say what a record is: its name or code, and its first figures. */
function usualFields(table: string): string[] {
  const columns = findTable(report.catalog!, table)?.columns ?? []
  const naming = columns.filter(column => /^(name|code|number|description)$/.test(column.name)).map(column => column.name)
  return naming.length ? naming.slice(0, 2) : columns.filter(column => !/_id$|^id$/.test(column.name)).slice(0, 3).map(column => column.name)
}

function join(level: LevelInfo, record: LadderRecord, relation: Relation): void {
  const common = { name: relation.name, table: relation.table, on: relation.on }
  if (relation.direction === 'related') report.edit(`Join ${relation.name}`, definition => addRelated(definition, level.name, record.path, { ...common, fields: usualFields(relation.table).slice(0, 1) }))
  else {
    const columns = findTable(report.catalog!, relation.table)?.columns ?? []
    const fields = [...new Set([...usualFields(relation.table), ...columns.filter(column => column.type === 'number' && column.scale).slice(0, 2).map(column => column.name)])]
    report.edit(`Join ${relation.name}`, definition => addDetail(definition, level.name, { ...common, caption: readable(relation.name), fields }))
  }
}

function tick(level: LevelInfo, record: LadderRecord, column: string, on: boolean): void {
  report.edit(`${on ? 'Tick' : 'Untick'} ${column}`, definition => tickField(definition, level.name, record.path, column, on))
}

function remove(level: LevelInfo, record: LadderRecord): void {
  report.edit(`Remove ${record.name}`, definition => record.path ? removeRelated(definition, level.name, record.path) : removeDetail(definition, level.name))
}
</script>

<template>
  <aside class="flex w-[290px] shrink-0 flex-col border-r border-default" aria-label="Levels">
    <div class="flex items-center justify-between px-4 pb-2 pt-3">
      <h2 class="text-sm font-semibold text-muted">Levels</h2>
      <span class="text-xs text-muted">Cais Velho · {{ levels.length }} {{ levels.length === 1 ? 'level' : 'levels' }}</span>
    </div>
    <div class="px-3 pb-2"><UInput v-model="search" size="sm" placeholder="Find a field" icon="i-lucide-search" class="w-full" aria-label="Find a field" /></div>
    <div class="grow space-y-2.5 overflow-auto px-3 pb-4">
      <p v-for="problem in problems" :key="problem.sentence" class="rounded-md bg-brick-50 p-2 text-sm text-brick-800 dark:bg-brick-950 dark:text-brick-200">{{ problem.sentence }}</p>
      <section
        v-for="level in levels" :key="level.name" class="rounded-md border border-default bg-default py-2 pr-2.5" :style="{ '--level': levelColour(level.index), marginLeft: `${depth(level) * 18}px`, borderLeft: '4px solid var(--level)', paddingLeft: '10px' }"
        :aria-label="`Level ${level.caption}`" :data-level="level.name"
      >
        <template v-for="record in recordsOf(level)" :key="record.path">
          <div class="group flex items-center gap-1.5" :style="{ paddingLeft: `${record.depth * 14}px` }">
            <button class="flex min-w-0 grow items-center gap-1.5 rounded py-0.5 text-left" :aria-expanded="isOpen(level, record)" :aria-label="`Fields of ${record.path || level.caption}`" @click="toggle(level, record)">
              <UIcon name="i-lucide-chevron-right" class="size-3 shrink-0 text-dimmed transition-transform" :class="isOpen(level, record) ? 'rotate-90' : ''" />
              <span v-if="record.path === ''" class="truncate font-semibold">{{ level.caption }}</span>
              <span v-else class="truncate">{{ readable(record.name).toLowerCase() }}</span>
              <span class="ml-auto shrink-0 pl-2 text-xs text-muted">{{ record.path === '' ? `one row per ${singleOf(level)}` : `${record.fields.length} of ${columnsOf(record).length}` }}</span>
            </button>
            <UPopover :content="{ side: 'right', align: 'start' }">
              <UButton size="xs" variant="ghost" color="primary" icon="i-lucide-plus" :aria-label="`Join to ${record.path || level.caption}`" class="p-0.5" />
              <template #content="{ close }">
                <div class="max-h-96 w-80 overflow-auto p-2">
                  <p class="px-2 pb-1 text-xs font-semibold text-muted">Can be joined to {{ record.path ? readable(record.name).toLowerCase() : level.caption.toLowerCase() }}</p>
                  <button v-for="relation in relations(level, record)" :key="relation.foreignKey + relation.direction" class="block w-full rounded px-2 py-1 text-left hover:bg-elevated" @click="join(level, record, relation); close()">
                    <span class="font-medium">{{ relation.sentence }}</span>
                    <span class="block truncate text-xs text-muted">{{ relation.hint }}</span>
                  </button>
                  <p v-if="!relations(level, record).length" class="px-2 py-1 text-sm text-muted">No foreign key leads on from here.</p>
                </div>
              </template>
            </UPopover>
            <UButton v-if="record.path || level.parent >= 0" size="xs" variant="ghost" color="neutral" icon="i-lucide-x" :aria-label="`Remove ${record.path || level.caption}`" class="p-0.5 opacity-0 focus:opacity-100 group-hover:opacity-100" @click="remove(level, record)" />
          </div>
          <div v-if="isOpen(level, record)" class="pb-1" :style="{ paddingLeft: `${record.depth * 14 + 18}px` }">
            <label v-for="column in matching(record)" :key="column.name" class="flex cursor-pointer items-center gap-2 rounded px-1 py-px text-sm hover:bg-elevated" :title="column.comment">
              <input type="checkbox" class="accent-petrol-700" :checked="record.fields.includes(column.name)" @change="tick(level, record, column.name, ($event.target as HTMLInputElement).checked)">
              <span class="truncate">{{ readable(column.name) }}</span>
              <span class="ml-auto text-xs text-dimmed">{{ column.type === 'boolean' ? 'yes/no' : column.type }}</span>
            </label>
          </div>
        </template>
        <p class="pl-[18px] pt-0.5 text-xs text-muted">{{ level.definition.fields.length }} of {{ columnsOf(recordsOf(level)[0]!).length }} fields ticked</p>
      </section>
    </div>
  </aside>
</template>
