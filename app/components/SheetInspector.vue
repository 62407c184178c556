<script setup lang="ts">
import { defaultPattern, formatField, checkText, singleValue } from '../../core/compose/text'
import { findBlock, moveColumn, removeBlock, removeColumn, removeItem, setAfter, setColumnCarry, setColumnWidth, setField, setPage, setShowWhen, setStyle, setTable, setText, textAt, type TextPlace } from '../../core/definition/edits'
import type { Align, PageSetup, TextStyle } from '../../core/definition/types'
import { checkFormula } from '../../core/formula/check'
import { dateFormat } from '../../core/value/dateFormat'
import { decimal } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'

/** Settings of what is selected, from the inside out. */
const report = useReport()
const sheet = useSheet()
const selection = computed(() => sheet.selection)
const definition = computed(() => report.definition!)
const block = computed(() => selection.value && findBlock(definition.value, selection.value.block))
const column = computed(() => block.value?.kind === 'table' ? block.value.columns.find(each => each.id === selection.value?.cell) : undefined)
const item = computed(() => block.value?.kind === 'panel' ? block.value.items.find(each => each.id === selection.value?.cell) : undefined)
const place = computed<TextPlace | undefined>(() => {
  const at = selection.value
  if (!at || at.part === 'block') return undefined
  if (at.part === 'forward' || at.part === 'brought') return { block: at.block, part: at.part }
  return at.cell ? { block: at.block, cell: at.cell, part: at.part as 'line' } : undefined
})
const text = computed(() => place.value && textAt(definition.value, place.value))
const style = computed<TextStyle>(() => column.value?.style ?? (item.value?.kind === 'text' ? item.value.style : undefined) ?? {})
const partWords: Record<string, string> = { item: 'text', titles: 'titles', line: 'line', end: 'table end', forward: 'carried forward', brought: 'brought forward' }

/** The field whose format the cell follows. */
const field = computed(() => {
  if (!text.value || !selection.value || !report.tree) return undefined
  try {
    const checked = checkText(text.value, scopeOfBlock(definition.value, report.tree.levels, selection.value.block), definition.value.language)
    return checked.formulas.map(formatField).find(Boolean)
  } catch {
    return undefined
  }
})
const ownPattern = computed(() => text.value ? singleValue(text.value)?.pattern : undefined)
const patterns = computed(() => {
  const list = field.value?.type === 'date' ? ['d MMM y', 'dd.MM.yyyy', 'yyyy-MM-dd', 'd MMMM y', 'MMM y'] : field.value?.type === 'number' ? ['#,##0.00', '#,##0', '#,##0.00;(#,##0.00)', '0.00', '#,##0.000', '0.0 %'] : []
  const current = field.value?.format ?? (field.value && defaultPattern(field.value.type, field.value))
  return (current && !list.includes(current) ? [current, ...list] : list).map(pattern => ({ value: pattern, label: sample(pattern) }))
})
function sample(pattern: string): string {
  try {
    return field.value?.type === 'date' ? dateFormat(pattern, definition.value.language)(report.today) : numberFormat(pattern, definition.value.language)(decimal(pattern.includes('(') ? -120450 : 120450, 2))
  } catch {
    return pattern
  }
}
const pattern = computed({
  get: () => field.value?.format ?? (field.value && defaultPattern(field.value.type, field.value)) ?? '',
  set: (value: string) => report.edit('Format', current => setField(current, `${report.tree!.levels[field.value!.level]!.name}.${field.value!.path}`, { format: value })),
})
const ruleFault = ref('')
watch(selection, () => ruleFault.value = '')

function rule(event: Event): void {
  const value = (event.target as HTMLInputElement).value
  ruleFault.value = ''
  if (value.trim()) {
    try {
      const scope = { ...scopeOfBlock(definition.value, report.tree!.levels, block.value!.id), page: false }
      if (checkFormula(value, scope).type !== 'boolean') throw new Error('A rule must be a test, such as discount > 0.')
    } catch (error) {
      ruleFault.value = (error as Error).message
      return
    }
  }
  report.edit('Show when', current => setShowWhen(current, block.value!.id, value))
}
const restyle = (change: Partial<TextStyle>) => report.edit('Style', current => setStyle(current, selection.value!.block, selection.value!.cell!, change))
const value = (event: Event) => (event.target as HTMLInputElement).value
const number = (event: Event) => Number((event.target as HTMLInputElement).value)
const page = computed(() => definition.value.layouts[0]!.page)
const totals = computed({
  get: () => !!column.value?.end.includes('sum('),
  set: (on: boolean) => {
    const single = singleValue(column.value!.text)
    if (!single) return
    report.edit('Total', (current) => {
      const set = setText(current, { block: block.value!.id, cell: column.value!.id, part: 'end' }, on ? `{{ sum(${single.formula})${single.pattern ? ` | ${single.pattern}` : ''} }}` : '')
      return on ? setTable(set, block.value!.id, { end: true }) : set
    })
  },
})
/** Only measures are added up; keys, codes and texts are not. */
const canTotal = computed(() => {
  const single = column.value && singleValue(column.value.text)
  if (!single || !report.tree) return false
  try {
    const typed = checkFormula(single.formula, scopeOfBlock(definition.value, report.tree.levels, block.value!.id))
    return typed.type === 'number' && (typed.is !== 'field' || typed.field.role === 'measure')
  } catch {
    return false
  }
})
const mm = (points: number) => Math.round(points / 72 * 254) / 10
const points = (millimetres: number) => millimetres * 72 / 25.4
</script>

<template>
  <aside class="bar w-[260px] shrink-0 overflow-auto border-l border-default text-sm" aria-label="Settings of the selection">
    <section v-if="text !== undefined" class="space-y-2 border-b border-default p-4">
      <h3 class="flex items-center justify-between font-semibold text-muted">This cell <span class="font-normal">{{ partWords[selection!.part] }}</span></h3>
      <label class="block"><span class="text-muted">Text</span><textarea :value="text" rows="2" class="mt-1 w-full rounded-md border border-default bg-default px-2 py-1 font-mono text-xs" aria-label="Text" @change="report.edit('Text', current => setText(current, place!, value($event)))" /></label>
      <label v-if="field && patterns.length && !ownPattern" class="flex items-center justify-between gap-2"><span class="text-muted">Format</span>
        <select v-model="pattern" class="w-36 rounded-md border border-default bg-default px-2 py-1" aria-label="Format"><option v-for="each in patterns" :key="each.value" :value="each.value">{{ each.label }}</option></select>
      </label>
      <p v-if="field && patterns.length && !ownPattern" class="text-xs text-muted">Holds for every cell and total of {{ field.caption.toLowerCase() }}.</p>
      <template v-if="selection!.cell">
        <div class="flex items-center justify-between gap-2"><span class="text-muted">Align</span>
          <div class="flex overflow-hidden rounded-md border border-default" role="group" aria-label="Align"><button v-for="align in (['left', 'centre', 'right'] as Align[])" :key="align" class="px-2 py-1" :class="(style.align ?? 'left') === align ? 'bg-petrol-100 font-semibold dark:bg-petrol-900' : ''" :aria-pressed="(style.align ?? 'left') === align" @click="restyle({ align })">{{ align }}</button></div>
        </div>
        <div class="flex items-center justify-between gap-2"><span class="text-muted">Letters</span>
          <div class="flex items-center gap-1.5">
            <button class="size-7 rounded-md border border-default font-bold" :class="style.bold ? 'bg-petrol-100 dark:bg-petrol-900' : ''" aria-label="Bold" :aria-pressed="!!style.bold" @click="restyle({ bold: !style.bold })">b</button>
            <button class="size-7 rounded-md border border-default italic" :class="style.italic ? 'bg-petrol-100 dark:bg-petrol-900' : ''" aria-label="Italic" :aria-pressed="!!style.italic" @click="restyle({ italic: !style.italic })">i</button>
            <input type="number" min="4" max="72" step="0.5" class="w-16 rounded-md border border-default bg-default px-2 py-1 text-right" aria-label="Size in points" :value="style.size ?? 9" @change="number($event) >= 4 && restyle({ size: number($event) })">
          </div>
        </div>
      </template>
    </section>
    <section v-if="column && block?.kind === 'table'" class="space-y-2 border-b border-default p-4">
      <h3 class="font-semibold text-muted">This column</h3>
      <label class="flex items-center justify-between gap-2"><span class="text-muted">Title</span><input class="w-36 rounded-md border border-default bg-default px-2 py-1" :value="column.title" @change="report.edit('Title', current => setText(current, { block: block!.id, cell: column!.id, part: 'titles' }, value($event)))"></label>
      <label class="flex items-center justify-between gap-2"><span class="text-muted">Width, mm</span><span class="flex items-center gap-1.5"><input type="number" min="6" step="1" class="w-20 rounded-md border border-default bg-default px-2 py-1 text-right" :value="column.width ? mm(column.width) : ''" placeholder="rest" @change="report.edit('Column width', current => setColumnWidth(current, block!.id, column!.id, points(number($event))))"><UButton size="xs" variant="ghost" :disabled="column.width === 0" @click="report.edit('Column width', current => setColumnWidth(current, block!.id, column!.id, 0))">fill</UButton></span></label>
      <label v-if="canTotal" class="flex items-center gap-2"><input v-model="totals" type="checkbox" class="accent-petrol-700"> Add up at the table’s end</label>
      <label v-if="canTotal" class="flex items-center gap-2"><input type="checkbox" class="accent-petrol-700" :checked="column.carry" @change="report.edit('Carry', current => setColumnCarry(current, block!.id, column!.id, ($event.target as HTMLInputElement).checked))"> Carry over the page</label>
      <div class="flex gap-1.5 pt-1">
        <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-arrow-left" aria-label="Move column left" @click="report.edit('Move column', current => moveColumn(current, block!.id, column!.id, -1))" />
        <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-arrow-right" aria-label="Move column right" @click="report.edit('Move column', current => moveColumn(current, block!.id, column!.id, 1))" />
        <UButton size="xs" variant="outline" color="error" icon="i-lucide-trash-2" class="ml-auto" :disabled="block.columns.length === 1" @click="report.edit('Delete column', current => removeColumn(current, block!.id, column!.id)); sheet.selection = undefined">Delete column</UButton>
      </div>
    </section>
    <section v-if="item" class="border-b border-default p-4">
      <UButton size="xs" variant="outline" color="error" icon="i-lucide-trash-2" @click="report.edit('Delete text', current => removeItem(current, block!.id, item!.id)); sheet.selection = undefined">Delete {{ { text: 'this text', image: 'this picture', rule: 'this line' }[item.kind] }}</UButton>
    </section>
    <section v-if="block" class="space-y-2 border-b border-default p-4">
      <h3 class="font-semibold text-muted">This {{ block.kind }}</h3>
      <template v-if="block.kind === 'table'">
        <label class="flex items-center gap-2"><input type="checkbox" class="accent-petrol-700" :checked="block.repeatTitles" @change="report.edit('Titles', current => setTable(current, block!.id, { repeatTitles: ($event.target as HTMLInputElement).checked }))"> Titles on each page</label>
        <label class="flex items-center gap-2"><input type="checkbox" class="accent-petrol-700" :checked="block.end" @change="report.edit('Table end', current => setTable(current, block!.id, { end: ($event.target as HTMLInputElement).checked }))"> Row at the table’s end</label>
      </template>
      <label class="block"><span class="text-muted">Show when</span><input class="mt-1 w-full rounded-md border border-default bg-default px-2 py-1 font-mono text-xs" :value="block.showWhen ?? ''" placeholder="always" @change="rule"></label>
      <p v-if="ruleFault" class="text-error" role="alert">{{ ruleFault }}</p>
      <label class="flex items-center justify-between gap-2"><span class="text-muted">Space under it, mm</span><input type="number" min="0" step="1" class="w-20 rounded-md border border-default bg-default px-2 py-1 text-right" :value="mm(block.after)" @change="report.edit('Space', current => setAfter(current, block!.id, points(Math.max(0, number($event)))))"></label>
      <UButton v-if="selection?.part === 'block'" size="xs" variant="outline" color="error" icon="i-lucide-trash-2" @click="report.edit('Delete block', current => removeBlock(current, block!.id)); sheet.selection = undefined">Delete this {{ block.kind }}</UButton>
    </section>
    <section class="space-y-2 p-4">
      <h3 class="font-semibold text-muted">The page</h3>
      <label class="flex items-center justify-between gap-2"><span class="text-muted">Size</span><select class="w-36 rounded-md border border-default bg-default px-2 py-1" :value="page.size" @change="report.edit('Page size', current => setPage(current, { size: value($event) as PageSetup['size'] }))"><option>A4</option><option>Letter</option></select></label>
      <label class="flex items-center justify-between gap-2"><span class="text-muted">Orientation</span><select class="w-36 rounded-md border border-default bg-default px-2 py-1" :value="page.orientation" @change="report.edit('Orientation', current => setPage(current, { orientation: value($event) as PageSetup['orientation'] }))"><option>portrait</option><option>landscape</option></select></label>
    </section>
    <section v-if="sheet.problems.length || sheet.failed" class="bg-apricot-50 p-4 dark:bg-apricot-950" data-notices>
      <h3 class="pb-1 font-semibold text-apricot-700 dark:text-apricot-300">{{ sheet.problems.length || 1 }} {{ (sheet.problems.length || 1) === 1 ? 'notice' : 'notices' }}</h3>
      <p v-if="sheet.failed">{{ sheet.failed }}</p>
      <button v-for="problem in sheet.problems" :key="problem.block + problem.cell + problem.sentence" class="block py-0.5 text-left hover:underline" @click="sheet.selection = { block: problem.block, part: problem.cell ? (problem.place === 'title' ? 'titles' : problem.place === 'end' ? 'end' : findBlock(definition, problem.block)?.kind === 'panel' ? 'item' : 'line') : 'block', ...(problem.cell ? { cell: problem.cell } : {}), page: 0, row: 0 }">{{ problem.cell ?? problem.block }}: {{ problem.sentence }}</button>
    </section>
  </aside>
</template>
