<script setup lang="ts">
import { pageSize } from '../../../../core/compose/prepare'
import { textParts } from '../../../../core/compose/text'
import type { Box } from '../../../../core/compose/page'
import { addTextItem, findBlock, insertColumn, removeBlock, removeColumn, removeItem, setText, textAt, type TextPlace } from '../../../../core/definition/edits'

const report = useReport()
const sheet = useSheet()
const view = useTemplateRef<{ current: number, scrollTo: (page: number) => void }>('view')
const zoom = ref(1.12)
const size = computed(() => pageSize(report.definition!.layouts[0]!.page))
onMounted(() => sheet.start())
onBeforeUnmount(() => sheet.stop())

const level = computed(() => sheet.selection && report.tree ? report.tree.levels[levelOfBlock(report.definition!, report.tree.levels, sheet.selection.block)] : undefined)
const text = computed(() => {
  const { selection } = sheet
  if (!selection || selection.part === 'block') return undefined
  return textAt(report.definition!, selection.part === 'forward' || selection.part === 'brought' ? { block: selection.block, part: selection.part } : { block: selection.block, cell: selection.cell!, part: selection.part as 'line' })
})
const formulas = computed(() => text.value === undefined ? '' : textParts(text.value).flatMap(part => 'formula' in part ? [part.formula] : []).join('   ·   ') || `“${text.value}”`)
const current = computed(() => sheet.pages.get(view.value?.current ?? 0))
const rootCaption = computed(() => report.tree?.levels[0]?.caption.toLowerCase() ?? '')

/** A field as a column of its own, as a cell's text, or as a text of a panel. */
function put(fieldLevel: number, path: string, box: Box, side: 'before' | 'after' | 'into', at: { x: number, y: number }): void {
  const { levels } = report.tree!
  const standing = levelOfBlock(report.definition!, levels, box.block)
  const source = `{{ ${fieldFormula(levels, standing, fieldLevel, path)} }}`
  const field = levels[fieldLevel]!.fields.get(path)!
  const block = findBlock(report.definition!, box.block)
  if (block?.kind === 'table' && side !== 'into') {
    const index = block.columns.findIndex(column => column.id === box.cell) + (side === 'after' ? 1 : 0)
    report.edit('Insert column', definition => insertColumn(definition, box.block, index, { title: fieldTitle(field), text: source, end: '', carry: false, width: field.type === 'number' ? 60 : 70, ...(field.type === 'number' && field.role !== 'key' ? { style: { align: 'right' as const } } : {}) }))
  } else if (block?.kind === 'panel' && !box.cell) {
    const { margins } = report.definition!.layouts[0]!.page
    report.edit('Add text', definition => addTextItem(definition, box.block, Math.round(at.x - margins.left), Math.round(at.y - box.y - 6), source))
  } else if (box.cell) {
    report.edit('Fill cell', definition => setText(definition, { block: box.block, cell: box.cell!, part: box.part as TextPlace['part'] } as TextPlace, source))
    sheet.selection = { block: box.block, part: box.part, cell: box.cell, page: sheet.selection?.page ?? 0, row: box.row }
  }
}

/** From the field list by keyboard or double click: after the selected column, or into the selected panel. */
function putAtSelection(fieldLevel: number, path: string): void {
  const { selection } = sheet
  const page = selection && sheet.pages.get(selection.page)
  const box = page?.boxes.find(each => each.block === selection!.block && each.cell === selection!.cell && each.part === selection!.part)
  if (!box) return
  const block = findBlock(report.definition!, box.block)
  put(fieldLevel, path, box, block?.kind === 'table' && (box.part === 'line' || box.part === 'titles') ? 'after' : 'into', { x: box.x + 10, y: box.y + box.height })
}

function remove(): void {
  const { selection } = sheet
  if (!selection) return
  const block = findBlock(report.definition!, selection.block)
  if (!selection.cell) {
    if (selection.part === 'block') report.edit('Delete block', definition => removeBlock(definition, selection.block))
  } else if (block?.kind === 'panel') report.edit('Delete text', definition => removeItem(definition, selection.block, selection.cell!))
  else if (selection.part === 'end' || selection.part === 'titles') report.edit('Clear cell', definition => setText(definition, { block: selection.block, cell: selection.cell!, part: selection.part as 'end' }, ''))
  else report.edit('Delete column', definition => removeColumn(definition, selection.block, selection.cell!))
  if (selection.part !== 'end' && selection.part !== 'titles') sheet.selection = undefined
}

/** Arrow keys go from cell to cell. */
function go(key: string): void {
  const { selection } = sheet
  const page = sheet.pages.get(selection?.page ?? 0)
  if (!selection || !page) return
  const cells = page.boxes.filter(box => box.cell)
  const from = cells.find(box => box.block === selection.block && box.part === selection.part && box.cell === selection.cell && box.row === selection.row)
  if (!from) return
  const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key] as [number, number]
  const middle = (box: Box) => ({ x: box.x + box.width / 2, y: box.y + box.height / 2 })
  const start = middle(from)
  let best: { box: Box, far: number } | undefined
  for (const box of cells) {
    if (box === from) continue
    const [along, across] = dx ? [(middle(box).x - start.x) * dx, Math.abs(middle(box).y - start.y)] : [(middle(box).y - start.y) * dy, Math.abs(middle(box).x - start.x)]
    const far = along + across * 4
    if (along > 1 && (!best || far < best.far)) best = { box, far }
  }
  if (best) sheet.selection = { block: best.box.block, part: best.box.part, cell: best.box.cell!, page: selection.page, row: best.box.row }
}

function key(event: KeyboardEvent): void {
  if (sheet.editing || event.ctrlKey || event.metaKey || event.altKey) return
  if (event.key === 'Delete' || event.key === 'Backspace') remove()
  else if (event.key === 'Escape') sheet.selection = undefined
  else if (event.key.startsWith('Arrow') && sheet.selection) go(event.key)
  else if (event.key === 'F2' || event.key === '/') sheet.editing = text.value !== undefined
  else return
  event.preventDefault()
}
const step = (by: number) => view.value?.scrollTo(Math.min(sheet.count - 1, Math.max(0, (view.value?.current ?? 0) + by)))
const zoomBy = (factor: number) => zoom.value = Math.round(Math.min(3, Math.max(0.4, zoom.value * factor)) * 100) / 100
</script>

<template>
  <div class="flex min-h-0 flex-col">
    <div class="flex min-h-0 grow">
      <FieldList @put="putAtSelection" />
      <main class="relative min-w-0 grow" aria-label="Sheet" @keydown="key">
        <div v-if="report.rows?.empty" class="desk grid h-full place-items-center"><p class="font-display text-lg">{{ report.rows.empty }} Choose other answers in Run, or change the filters in Data.</p></div>
        <SheetView v-else ref="view" :count="sheet.count" :pages="sheet.pages" :width="size.width" :height="size.height" :zoom="zoom" :gutter="112" @range="sheet.want">
          <template #default="{ page, index }"><SheetOverlay :page="page" :index="index" :zoom="zoom" @put="put" /></template>
        </SheetView>
      </main>
      <SheetInspector />
    </div>
    <footer class="bar flex h-11 shrink-0 items-center gap-3 border-t border-default px-4 text-sm" :style="level ? { '--level': levelColour(level.index) } : {}">
      <template v-if="level"><span class="level-mark" /><span class="font-semibold">{{ level.caption }}</span><code class="truncate font-mono text-xs" data-formula>{{ formulas }}</code></template>
      <span v-else class="text-muted">Click a cell to select it, double-click or Enter to write in it; drag a field onto the sheet.</span>
      <span class="ml-auto flex shrink-0 items-center gap-1 text-muted">
        <UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-zoom-out" aria-label="Smaller" @click="zoomBy(1 / 1.15)" />{{ Math.round(zoom / (96 / 72) * 100) }} %<UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-zoom-in" aria-label="Larger" @click="zoomBy(1.15)" />
        <span class="pl-3" data-page-count>{{ rootCaption }} {{ (current?.record ?? 0) + 1 }} of {{ report.rows?.records.levels[0]?.count ?? 0 }} · page {{ (view?.current ?? 0) + 1 }} of {{ sheet.total ?? '…' }}</span>
        <UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-chevron-left" aria-label="Page before" @click="step(-1)" /><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-chevron-right" aria-label="Next page" @click="step(1)" />
      </span>
    </footer>
  </div>
</template>
