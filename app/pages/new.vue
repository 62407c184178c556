<script setup lang="ts">
import { type Catalog, findTable, readable } from '../../core/catalog/types'
import { isKeyColumn, singular } from '../../core/catalog/relations'
import type { ReportDefinition } from '../../core/definition/types'

/** A new report begins with the table that its records stand in. */
const route = useRoute()
const catalog = shallowRef<Catalog>()
const chosen = ref('')
const problem = ref('')
const name = ref('')
const making = ref(false)
useHead({ title: 'New report · Estante' })
onMounted(async () => {
  try {
    const { problem: _, ...found } = await api<Catalog & { problem: string }>('/api/catalog')
    catalog.value = found
  } catch (error) {
    problem.value = (error as Error).message
  }
})
const proposed = computed(() => chosen.value ? readable(chosen.value) : '')

/** A plain list of the table's first fields: something to see at once, all of it editable. */
function definitionOf(table: string): ReportDefinition {
  const found = findTable(catalog.value!, table)!
  const shown = found.columns.filter(column => !isKeyColumn(catalog.value!, table, column.name)).slice(0, 7)
  const fields = (shown.length ? shown : found.columns.slice(0, 7)).map(column => column.name)
  const quoted = (each: string) => /^[\p{L}_][\p{L}\p{N}_]*$/u.test(each) ? each : `\`${each}\``
  const level = singular(table).replace(/\W+/g, '_')
  const columns = fields.slice(0, 6).map((each, index) => {
    const column = found.columns.find(other => other.name === each)!
    return { id: `column${index + 1}`, title: readable(each), text: `{{ ${quoted(each)} }}`, end: '', carry: false, width: column.type === 'text' ? 0 : 74, ...(column.type === 'number' ? { style: { align: 'right' as const } } : {}) }
  })
  return {
    format: 1, language: 'en-GB', parameters: [],
    dataSets: [{ name: 'main', source: 'caisvelho', fields: {}, root: { name: level, caption: readable(level), table, on: [], fields, related: [], details: [], filters: [], sort: [] } }],
    layouts: [{
      name: 'Standard', page: { size: 'A4', orientation: 'portrait', margins: { top: 45, right: 45, bottom: 40, left: 45 } },
      foot: { kind: 'panel', id: 'pageFoot', height: 14, after: 0, items: [{ kind: 'text', id: 'page', x: 0, y: 0, width: 505.28, text: 'Page {{ page.number }} of {{ page.count }}', style: { size: 8, align: 'centre', colour: '#6d655b' } }] },
      blocks: [
        { kind: 'panel', id: 'heading', height: 24, after: 10, items: [{ kind: 'text', id: 'title', x: 0, y: 0, width: 400, text: name.value.trim() || proposed.value, style: { font: 'serif', size: 16, bold: true, colour: '#0f4c5c' } }] },
        { kind: 'table', id: 'list', level, left: 0, width: 0, repeatTitles: true, end: false, after: 0, columns },
      ],
    }],
  }
}
async function make(): Promise<void> {
  making.value = true
  try {
    const { id } = await api<{ id: string }>('/api/reports', { method: 'POST', body: { name: name.value.trim() || proposed.value, shelf: String(route.query.shelf ?? 'New'), definition: definitionOf(chosen.value) } })
    await navigateTo(`/reports/${id}/data`)
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    making.value = false
  }
}
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar :crumbs="[{ label: 'Library', to: '/' }, { label: 'New report' }]"><span class="text-sm text-muted">Which table holds one row per line or document of the report?</span></TopBar>
    <Notice v-if="problem" :text="problem" kind="error" />
    <TableFinder v-if="catalog" v-model="chosen" :catalog="catalog">
      <template #action><form class="flex shrink-0 items-center gap-2" @submit.prevent="make"><UInput v-model="name" size="sm" class="w-52" :placeholder="proposed" aria-label="Name of the report" /><UButton type="submit" size="sm" :loading="making" :disabled="!chosen">Start with this table</UButton></form></template>
    </TableFinder>
  </div>
</template>
