<script setup lang="ts">
import type { FieldInfo, LevelInfo } from '../../../../core/dataset/levels'

const report = useReport()
const tab = ref<'nested' | 'flat' | 'sql'>('nested')
const opened = ref(new Set<number>())
const flatLevel = ref('')
const records = computed(() => report.rows?.records)
const levels = computed(() => records.value && report.tree && records.value.levels.length === report.tree.levels.length ? report.tree.levels : [])
const root = computed(() => levels.value[0])
const language = computed(() => report.definition!.language)
const children = (level: LevelInfo) => level.children.map(index => levels.value[index]!)
const fields = (level: LevelInfo) => shownFields(level, records.value)
const text = (level: LevelInfo, field: FieldInfo, row: number) => fieldText(field, cellOf(records.value!, level.index, field.path, row), language.value)
const under = (level: LevelInfo, parent: number) => {
  const { starts } = records.value!.levels[level.index]!
  return Array.from({ length: starts[parent + 1]! - starts[parent]! }, (_, index) => starts[parent]! + index)
}
watch(() => report.rows, () => {
  if (!opened.value.size) opened.value.add(0)
})
opened.value.add(0)
const toggle = (row: number) => opened.value.has(row) ? opened.value.delete(row) : opened.value.add(row)

const details = computed(() => levels.value.filter(level => level.parent >= 0))
const flat = computed(() => details.value.find(level => level.name === flatLevel.value) ?? details.value[0])
const flatMost = 500
/** One row per record of a level, with the fields of all levels above it. */
const flatRows = computed(() => {
  if (!flat.value || !records.value) return { above: [], rows: [], total: 0 }
  const above: LevelInfo[] = []
  for (let at = flat.value.parent; at >= 0; at = levels.value[at]!.parent) above.unshift(levels.value[at]!)
  const total = records.value.levels[flat.value.index]!.count
  const parentOf = (level: LevelInfo, row: number) => {
    const { starts } = records.value!.levels[level.index]!
    let [low, high] = [0, starts.length - 2]
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (starts[middle]! <= row) low = middle
      else high = middle - 1
    }
    return low
  }
  const rows = Array.from({ length: Math.min(total, flatMost) }, (_, row) => {
    const chain = new Map([[flat.value!.index, row]])
    let [level, at] = [flat.value!, row]
    while (level.parent >= 0) {
      at = parentOf(level, at)
      level = levels.value[level.parent]!
      chain.set(level.index, at)
    }
    return chain
  })
  return { above, rows, total }
})
const count = (number: number) => number.toLocaleString('en')
const right = (field: FieldInfo) => field.type === 'number' && field.role !== 'key'
</script>

<template>
  <div class="flex min-h-0">
    <LevelLadder class="bar" />
    <div class="flex min-w-0 grow flex-col bg-default">
      <div class="flex min-h-11 shrink-0 items-center gap-4 border-b border-default px-4 py-1.5">
        <FilterLine class="grow" />
        <span v-if="report.rows" class="shrink-0 text-sm text-muted" data-row-count>{{ records!.levels[0]!.count < report.rows.total ? `first ${count(records!.levels[0]!.count)} of ${counted(report.rows.total, root?.caption ?? '')}` : counted(report.rows.total, root?.caption ?? '') }}</span>
      </div>
      <div class="relative min-h-0 grow overflow-auto" tabindex="0" aria-label="Rows">
        <p v-if="report.rows?.empty" class="p-6 font-display text-lg">{{ report.rows.empty }}</p>
        <table v-else-if="tab === 'nested' && root" class="min-w-full border-separate border-spacing-0 text-[13px]" data-nested>
          <thead>
            <tr>
              <th class="sticky top-0 z-10 w-8 border-b border-default bg-default" />
              <th v-for="field in fields(root)" :key="field.path" class="sticky top-0 z-10 whitespace-nowrap border-b border-default bg-default px-2.5 py-1.5 font-semibold" :class="right(field) ? 'text-right' : 'text-left'">{{ fieldTitle(field) }}</th>
            </tr>
          </thead>
          <tbody>
            <template v-for="(_, row) in records!.levels[0]!.count" :key="row">
              <tr class="hover:bg-elevated/50" :data-root-row="row">
                <td class="border-b border-muted pl-2">
                  <button v-if="root.children.length" class="flex rounded p-0.5" :aria-expanded="opened.has(row)" aria-label="Details" @click="toggle(row)"><UIcon name="i-lucide-chevron-right" class="size-3.5 transition-transform" :class="opened.has(row) ? 'rotate-90' : ''" /></button>
                </td>
                <td v-for="field in fields(root)" :key="field.path" class="max-w-72 truncate border-b border-muted px-2.5 py-1" :class="[right(field) ? 'text-right' : '', opened.has(row) ? 'font-semibold' : '']">{{ text(root, field, row) }}</td>
              </tr>
              <tr v-if="opened.has(row)">
                <td :colspan="fields(root).length + 1" class="border-b border-muted p-0 pl-9">
                  <div v-for="level in children(root)" :key="level.name" class="py-1 pr-3" :style="{ '--level': levelColour(level.index), background: `color-mix(in srgb, var(--level) var(--level-tint), transparent)` }" :data-detail="level.name">
                    <div class="flex items-center gap-2 px-2 py-0.5 text-xs text-muted"><span class="level-mark" />{{ counted(under(level, row).length, level.caption) }}</div>
                    <table v-if="under(level, row).length" class="border-separate border-spacing-0">
                      <thead><tr><th v-for="field in fields(level)" :key="field.path" class="whitespace-nowrap px-2.5 py-0.5 text-xs font-semibold text-muted" :class="right(field) ? 'text-right' : 'text-left'">{{ fieldTitle(field) }}</th></tr></thead>
                      <tbody><tr v-for="inner in under(level, row)" :key="inner"><td v-for="field in fields(level)" :key="field.path" class="max-w-96 truncate px-2.5 py-0.5" :class="right(field) ? 'text-right' : ''">{{ text(level, field, inner) }}</td></tr></tbody>
                    </table>
                  </div>
                </td>
              </tr>
            </template>
          </tbody>
        </table>
        <template v-else-if="tab === 'flat' && flat">
          <div class="flex items-center gap-3 border-b border-default px-4 py-1.5 text-sm">
            <span class="text-muted">One row per record of</span>
            <button v-for="level in details" :key="level.name" class="flex items-center gap-1.5 rounded px-2 py-0.5" :class="flat.name === level.name ? 'bg-elevated font-semibold' : ''" :style="{ '--level': levelColour(level.index) }" @click="flatLevel = level.name"><span class="level-mark" />{{ level.caption }}</button>
            <span class="ml-auto text-apricot-700 dark:text-apricot-300">Fields of {{ root!.caption.toLowerCase() }} repeat on each row here; a sum on the page counts each {{ root!.caption.toLowerCase() }} once.</span>
          </div>
          <table class="min-w-full border-separate border-spacing-0 text-[13px]" data-flat>
            <thead>
              <tr>
                <template v-for="level in [...flatRows.above, flat]" :key="level.name">
                  <th v-for="field in fields(level)" :key="field.path" class="sticky top-0 whitespace-nowrap border-b bg-default px-2.5 py-1.5 font-semibold" :class="right(field) ? 'text-right' : 'text-left'" :style="{ borderColor: levelColour(level.index), borderBottomWidth: '2px' }">{{ fieldTitle(field) }}</th>
                </template>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(chain, index) in flatRows.rows" :key="index" class="hover:bg-elevated/50">
                <template v-for="level in [...flatRows.above, flat]" :key="level.name">
                  <td v-for="field in fields(level)" :key="field.path" class="max-w-72 truncate border-b border-muted px-2.5 py-0.5" :class="[right(field) ? 'text-right' : '', level !== flat ? 'text-muted' : '']">{{ text(level, field, chain.get(level.index)!) }}</td>
                </template>
              </tr>
            </tbody>
          </table>
          <p v-if="flatRows.total > flatMost" class="px-4 py-2 text-sm text-muted">The first {{ flatMost }} of {{ count(flatRows.total) }} rows.</p>
        </template>
        <p v-else-if="tab === 'flat'" class="p-6 text-muted">There is only one level; its rows are flat as they are.</p>
        <div v-else-if="tab === 'sql'" class="space-y-4 p-4">
          <p class="max-w-prose text-sm text-muted">One statement per level: keys first, then each level for the records above it, so that nothing is multiplied. Values are bound.</p>
          <section v-for="(statement, index) in report.rows?.sql" :key="index">
            <h3 class="mb-1 flex items-center gap-2 text-sm font-semibold" :style="{ '--level': levelColour(Math.max(0, index - 1)) }"><span class="level-mark" />{{ index ? levels[index - 1]?.caption : `Keys of ${root?.caption.toLowerCase()}` }}</h3>
            <pre class="whitespace-pre-wrap rounded-md border border-default bg-muted p-3 font-mono text-xs leading-relaxed" data-sql>{{ statement.replace(/ (from|left join|where|and) /g, '\n$1 ') }}</pre>
          </section>
        </div>
      </div>
      <div class="bar flex h-11 shrink-0 items-center gap-1 border-t border-default px-4">
        <button v-for="each in (['nested', 'flat', 'sql'] as const)" :key="each" class="rounded-md px-3 py-1 text-sm font-medium" :class="tab === each ? 'bg-petrol-100 text-petrol-800 dark:bg-petrol-900 dark:text-petrol-100' : 'text-muted hover:text-highlighted'" :aria-pressed="tab === each" @click="tab = each">{{ each === 'sql' ? 'SQL' : each === 'flat' ? 'Flat' : 'Nested' }}</button>
        <span class="ml-auto flex items-center gap-2 text-sm text-muted"><UIcon v-if="report.reading" name="i-lucide-loader-circle" class="size-4 animate-spin" />{{ report.rows ? `${report.rows.sql.length} statements · ${report.rows.ms} ms` : '' }}</span>
      </div>
    </div>
  </div>
</template>
