<script setup lang="ts">
import { isCrosstab } from '../../../../core/definition/blocks/crosstab'
import { isPanel } from '../../../../core/definition/blocks/panel'
import { isTable } from '../../../../core/definition/blocks/table'
import { putOnCrosstab } from '../../../../core/templates/crosstab'
import { pageSize } from '../../../../core/compose/paperSize'
import type { Box } from '../../../../core/compose/page'
import {
  addTextItem,
  duplicateBlock,
  findBlock,
  insertColumn,
  removeBlock,
  removeColumn,
  removeItem,
  setText,
  shiftBlock,
} from '../../../../core/definition/edits/edits'
import { moveLine, removeLine, removeStatementColumn } from '../../../../core/definition/edits/statement'
import { readStatementRow } from '../../../../core/definition/blocks/statement'

const { report, sheet, selection, block, place, text, statement, line, figure } = useSheetSelection()
const view = useTemplateRef<{ current: number; width: number; scrollTo: (page: number) => void }>('view')
const desk = useTemplateRef('desk')
const { width: room } = useElementSize(desk)
const zoom = ref(1.06)
const side = ref(false)
const tracing = ref(false)
const finding = ref(false)
/** its history, where the library leads to it */
const comparing = ref(useRoute().query.versions === 'yes')
const size = computed(() => pageSize(report.layout!.page))
onMounted(() => {
  sheet.start()
  // a page that is wider than the view is fitted into it, once the view has its size
  const stop = watchDebounced(
    room,
    width => {
      if (width < 300) return
      stop()
      if (width < size.value.width * zoom.value + 140) fit()
    },
    { debounce: 150, immediate: true },
  )
})
onBeforeUnmount(() => {
  sheet.stop()
  sheet.selection = undefined
})

const show = (page: number) => view.value?.scrollTo(page)
const box = computed(() => {
  const at = selection.value
  return (
    at &&
    sheet.pages
      .get(at.page)
      ?.boxes.find(
        each =>
          each.block === at.block &&
          each.part === at.part &&
          each.cell === at.cell &&
          (!at.rowId || each.rowId === at.rowId) &&
          (at.row < 0 || each.row === at.row),
      )
  )
})
watch([box, tracing], () => {
  if (box.value?.cell && !statement.value) sheet.trace(box.value)
  else sheet.traced = undefined
})
/** The account that a row of a statement shows, where it shows one. */
const accountOf = (row: string | undefined) => (row === undefined ? '' : (readStatementRow(row).path.at(-1) ?? ''))
const fit = () => (zoom.value = Math.round(Math.min(3, Math.max(0.3, (room.value - 150) / size.value.width)) * 100) / 100)
const bar = useTemplateRef<{ select: () => void }>('bar')
const find = () => {
  if (finding.value) bar.value?.select()
  else finding.value = true
}
const { commands, insertions, drafts, jumps, layouts, rename, copyBlock, pasteBlock, nudge, nest } = useSheetCommands({
  zoom,
  fit,
  side,
  find,
  show,
  trace: () => (tracing.value = true),
})
useCommands().offer(() => commands.value)
const { nesting, nestingLevel } = nest
/** As getters: what a menu holds is worked out when it opens. */
const menus = { layouts: () => layouts.value, insertions: () => insertions.value, drafts: () => drafts, jumps: () => jumps.value }

/** Looks for a text from the page in view on, and shows the page. */
async function seek(text: string): Promise<number> {
  const page = await sheet.seek({ text }, view.value?.current ?? -1)
  if (page >= 0) show(page)
  return page
}

/** A field as a column of its own, as a cell's text, or as a text of a panel. */
function put(fieldLevel: number, path: string, target: Box, where: 'before' | 'after' | 'into', at: { x: number; y: number }): void {
  const { levels } = report.tree!
  const standing = levelOfBlock(report.definition!, levels, target.block)
  const source = `{{ ${fieldFormula(levels, standing, fieldLevel, path)} }}`
  const field = levels[fieldLevel]!.fields.get(path)!
  const over = findBlock(report.definition!, target.block)
  if (isCrosstab(over)) {
    report.edit(t('reportsIdPagePage.putAFieldOnThe'), definition => putOnCrosstab(definition, over, levels, field, target))
  } else if (isTable(over) && where !== 'into') {
    const index = over.columns.findIndex(column => column.id === target.cell) + (where === 'after' ? 1 : 0)
    report.edit(t('reportsIdPagePage.insertColumn'), definition =>
      insertColumn(definition, target.block, index, {
        title: fieldTitle(field),
        text: source,
        width: field.type === 'number' ? 60 : 70,
        ...(field.type === 'number' && field.role !== 'key' ? { style: { align: 'right' as const } } : {}),
      }),
    )
  } else if (isPanel(over) && !target.cell) {
    report.edit(t('reportsIdPagePage.addText'), definition =>
      addTextItem(definition, target.block, Math.round(at.x - target.x), Math.round(at.y - target.y - 6), source),
    )
  } else if (target.cell) {
    report.edit(t('reportsIdPagePage.fillCell'), definition =>
      setText(
        definition,
        { block: target.block, cell: target.cell!, part: target.part as 'line', ...(target.rowId ? { row: target.rowId } : {}) },
        source,
      ),
    )
    sheet.selection = {
      block: target.block,
      part: target.part,
      cell: target.cell,
      page: selection.value?.page ?? 0,
      row: target.row,
      ...(target.rowId ? { rowId: target.rowId } : {}),
    }
  }
}

/** From the field list by keyboard or double click: after the selected column, or into the selected panel. */
function putAtSelection(fieldLevel: number, path: string): void {
  const target = box.value
  if (!target) return
  const block = findBlock(report.definition!, target.block)
  const besides = block && isTable(block) && (target.part === 'line' || target.part === 'titles')
  put(fieldLevel, path, target, besides ? 'after' : 'into', { x: target.x + 10, y: target.y + target.height })
}

function remove(): void {
  const at = selection.value
  if (!at) return
  const cells = [at.cell!, ...(at.more ?? [])]
  if (statement.value && at.part !== 'block') {
    if (line.value) report.edit(t('reportsIdPagePage.deleteLine'), now => removeLine(now, at.block, line.value!.id))
    else if (figure.value && at.part === 'titles')
      report.edit(t('common.deleteColumn'), now => removeStatementColumn(now, at.block, figure.value!.id))
    sheet.selection = undefined
    return
  }
  if (!at.cell) {
    if (at.part === 'block') report.edit(t('reportsIdPagePage.deleteBlock'), definition => removeBlock(definition, at.block))
  } else if (isPanel(block.value))
    report.edit(t('reportsIdPagePage.deleteText'), definition => cells.reduce((sum, cell) => removeItem(sum, at.block, cell), definition))
  else if (at.part === 'line')
    report.edit(t('common.deleteColumn'), definition => cells.reduce((sum, cell) => removeColumn(sum, at.block, cell), definition))
  else report.edit(t('reportsIdPagePage.clearCell'), definition => setText(definition, place.value!, ''))
  if (at.part === 'line' || at.part === 'item' || at.part === 'block') sheet.selection = undefined
}

/** Arrow keys go from cell to cell. */
function go(key: string): void {
  const page = sheet.pages.get(selection.value?.page ?? 0)
  const from = box.value
  if (!page || !from) return
  const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key] as [number, number]
  const middle = (each: Box) => ({ x: each.x + each.width / 2, y: each.y + each.height / 2 })
  const start = middle(from)
  let best: { box: Box; far: number } | undefined
  for (const each of page.boxes) {
    if (!each.cell || each === from) continue
    const [along, across] = dx
      ? [(middle(each).x - start.x) * dx, Math.abs(middle(each).y - start.y)]
      : [(middle(each).y - start.y) * dy, Math.abs(middle(each).x - start.x)]
    const far = along + across * 4
    if (along > 1 && (!best || far < best.far)) best = { box: each, far }
  }
  if (best)
    sheet.selection = {
      block: best.box.block,
      part: best.box.part,
      cell: best.box.cell!,
      page: selection.value!.page,
      row: best.box.row,
      ...(best.box.rowId ? { rowId: best.box.rowId } : {}),
    }
}
/** The first cell of the page in view, for those who come with the keyboard. */
function enter(): void {
  const index = view.value?.current ?? 0
  const first = sheet.pages.get(index)?.boxes.find(each => each.cell)
  if (first)
    sheet.selection = {
      block: first.block,
      part: first.part,
      cell: first.cell!,
      page: index,
      row: first.row,
      ...(first.rowId ? { rowId: first.rowId } : {}),
    }
}

const titles = useCrosstabTitles()
function key(event: KeyboardEvent): void {
  if (sheet.editing || /^(INPUT|TEXTAREA|SELECT)$/.test((event.target as HTMLElement).tagName)) return
  const control = event.ctrlKey || event.metaKey
  const letter = event.key.toLowerCase()
  if (control && letter === 'f') find()
  else if (control && letter === '0') fit()
  else if (control && event.shiftKey && (letter === 'c' || letter === 'v'))
    commands.value.find(each => each.id === (letter === 'c' ? 'copy look' : 'put look'))?.run()
  else if (control && letter === 'c' && block.value && !window.getSelection()?.toString()) copyBlock()
  else if (control && letter === 'v') pasteBlock()
  else if (control && letter === 'd' && block.value) report.edit(t('common.duplicateBlock'), now => duplicateBlock(now, block.value!.id))
  else if (event.altKey && (event.key === 'PageUp' || event.key === 'PageDown') && block.value)
    report.edit(t('common.moveBlock'), now => shiftBlock(now, block.value!.id, event.key === 'PageUp' ? -1 : 1))
  else if (event.altKey && statement.value && line.value && (event.key === 'ArrowUp' || event.key === 'ArrowDown'))
    report.edit(t('reportsIdPagePage.moveLine'), now =>
      moveLine(now, statement.value!.id, line.value!.id, event.key === 'ArrowUp' ? -1 : 1),
    )
  else if (event.altKey && box.value && titles.moveBy(box.value, event.key)) sheet.editing = false
  else if (event.altKey && event.key.startsWith('Arrow')) {
    const by = event.shiftKey ? 10 : 1
    nudge(
      event.key === 'ArrowLeft' ? -by : event.key === 'ArrowRight' ? by : 0,
      event.key === 'ArrowUp' ? -by : event.key === 'ArrowDown' ? by : 0,
    )
  } else if (control || event.altKey) return
  else if (event.key === 'Delete' || event.key === 'Backspace') remove()
  else if (event.key === 'Escape') [sheet.selection, tracing.value] = [undefined, false]
  else if (event.key.startsWith('Arrow')) {
    if (selection.value) go(event.key)
    else enter()
  } else if (event.key === 'F2' || event.key === '/') sheet.editing = text.value !== undefined
  else if (letter === 't' && selection.value?.cell) tracing.value = !tracing.value
  else return
  event.preventDefault()
}
useEventListener('keydown', event => {
  // Ctrl F finds on the sheet wherever the focus is
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'f' && !event.defaultPrevented) {
    event.preventDefault()
    find()
  }
})
const addOpen = ref(false)
function addAfter(beside: string): void {
  sheet.selection = { block: beside, part: 'block', page: selection.value?.page ?? 0, row: -1 }
  addOpen.value = true
}
</script>

<template>
  <div class="flex min-h-0 flex-col">
    <SheetToolbar
      ref="bar"
      v-model:finding="finding"
      v-model:side="side"
      v-model:add-open="addOpen"
      :menus="menus"
      :seek="seek"
      :rename="rename"
      @fit="fit"
      @compare="comparing = true"
    />
    <div class="flex min-h-0 grow">
      <FieldList @put="putAtSelection" />
      <main ref="desk" class="relative min-w-0 grow" :aria-label="t('reportsIdPagePage.sheet')" @keydown="key">
        <div v-if="report.rows?.empty" class="desk grid h-full place-items-center">
          <p class="font-display text-lg">{{ t('reportsIdPagePage.chooseOtherAnswersInRun', { empty: report.rows.empty }) }}</p>
        </div>
        <SheetView
          v-else
          ref="view"
          :count="sheet.count"
          :pages="sheet.pages"
          :width="size.width"
          :height="size.height"
          :zoom="zoom"
          :gutter="112"
          :side="side"
          @range="sheet.want"
        >
          <template #default="{ page, index }"
            ><SheetOverlay :page="page" :index="index" :zoom="zoom" @put="put" @add="addAfter"
          /></template>
        </SheetView>
      </main>
      <SheetInspector @show="show" />
    </div>
    <StatementTrace
      v-if="tracing && statement && line && figure"
      :definition="report.definition"
      :answers="report.answers"
      :statement="statement.id"
      :line="line.id"
      :column="selection!.cell!"
      :account="accountOf(selection!.rowId)"
      :caption="line.caption || line.id"
      @close="tracing = false"
    />
    <SheetTraceDrawer v-else-if="tracing && selection?.cell && !statement" @close="tracing = false" />
    <LazySheetNestedPick v-if="nesting" :level="nestingLevel" :taken="nest.taken" @add="nest.nest" @close="nesting = undefined" />
    <LazySheetVersionCompare v-if="comparing" @close="comparing = false" />
    <SheetFooter v-model:zoom="zoom" v-model:tracing="tracing" :current="view?.current ?? 0" @show="show" />
  </div>
</template>
