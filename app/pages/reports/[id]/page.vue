<script setup lang="ts">
import { isPanel } from '../../../../core/definition/blocks/panel'
import { isTable } from '../../../../core/definition/blocks/table'
import { pageSize } from '../../../../core/compose/paperSize'
import { textParts } from '../../../../core/value/textParts'
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
import type { Command } from '../../../stores/commands'

const { report, sheet, selection, block, place, text, statement, line, figure } = useSheetSelection()
const view = useTemplateRef<{ current: number; width: number; scrollTo: (page: number) => void }>('view')
const desk = useTemplateRef('desk')
const { width: room } = useElementSize(desk)
const zoom = ref(1.06)
const side = ref(false)
const tracing = ref(false)
const finding = ref(false)
const wanted = ref('')
const found = ref('')
const comparing = ref(false)
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

const level = computed(() =>
  selection.value && report.tree
    ? report.tree.levels[levelOfBlock(report.definition!, report.tree.levels, selection.value.block)]
    : undefined,
)
const formulas = computed(() =>
  text.value === undefined
    ? ''
    : statement.value && selection.value?.cell !== 'caption'
      ? text.value
      : textParts(text.value)
          .flatMap(part => ('formula' in part ? [part.formula] : []))
          .join('   ·   ') || `“${text.value}”`,
)
const current = computed(() => sheet.pages.get(view.value?.current ?? 0))
const rootCaption = computed(() => report.tree?.levels[0]?.caption.toLowerCase() ?? '')
const rootCount = computed(() => report.rows?.records.levels[0]?.count ?? 0)
/** Rule 23: figures over all records stand on the pinned ones only, as long as these are not all. */
const sample = computed(() => (sheet.needsAll && report.rows && report.rows.total === undefined ? 'totals of the pinned rows' : ''))
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
/** How many records stand behind the selected figure, and what they add up to. */
const behind = computed(() => {
  const first = sheet.traced?.[0]
  return first && `${counted(first.count, report.tree!.levels[first.level]!.caption)} behind it`
})
const fit = () => (zoom.value = Math.round(Math.min(3, Math.max(0.3, (room.value - 150) / size.value.width)) * 100) / 100)
const find = () => {
  finding.value = true
  void nextTick(() => document.querySelector<HTMLInputElement>('[data-find]')?.select())
}
const { commands, insertions, drafts, jumps, layouts, rename, copyBlock, pasteBlock, nudge } = useSheetCommands({
  zoom,
  fit,
  side,
  find,
  show,
  trace: () => (tracing.value = true),
})
useCommands().offer(() => commands.value)

async function findNext(): Promise<void> {
  if (!wanted.value.trim()) return
  const page = await sheet.seek({ text: wanted.value.trim() }, view.value?.current ?? -1)
  found.value = page < 0 ? 'not on these pages' : `page ${page + 1}`
  if (page >= 0) show(page)
}

/** A field as a column of its own, as a cell's text, or as a text of a panel. */
function put(fieldLevel: number, path: string, target: Box, where: 'before' | 'after' | 'into', at: { x: number; y: number }): void {
  const { levels } = report.tree!
  const standing = levelOfBlock(report.definition!, levels, target.block)
  const source = `{{ ${fieldFormula(levels, standing, fieldLevel, path)} }}`
  const field = levels[fieldLevel]!.fields.get(path)!
  const over = findBlock(report.definition!, target.block)
  if (isTable(over) && where !== 'into') {
    const index = over.columns.findIndex(column => column.id === target.cell) + (where === 'after' ? 1 : 0)
    report.edit('Insert column', definition =>
      insertColumn(definition, target.block, index, {
        title: fieldTitle(field),
        text: source,
        width: field.type === 'number' ? 60 : 70,
        ...(field.type === 'number' && field.role !== 'key' ? { style: { align: 'right' as const } } : {}),
      }),
    )
  } else if (isPanel(over) && !target.cell) {
    report.edit('Add text', definition =>
      addTextItem(definition, target.block, Math.round(at.x - target.x), Math.round(at.y - target.y - 6), source),
    )
  } else if (target.cell) {
    report.edit('Fill cell', definition =>
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
    if (line.value) report.edit('Delete line', now => removeLine(now, at.block, line.value!.id))
    else if (figure.value && at.part === 'titles')
      report.edit('Delete column', now => removeStatementColumn(now, at.block, figure.value!.id))
    sheet.selection = undefined
    return
  }
  if (!at.cell) {
    if (at.part === 'block') report.edit('Delete block', definition => removeBlock(definition, at.block))
  } else if (isPanel(block.value))
    report.edit('Delete text', definition => cells.reduce((sum, cell) => removeItem(sum, at.block, cell), definition))
  else if (at.part === 'line')
    report.edit('Delete column', definition => cells.reduce((sum, cell) => removeColumn(sum, at.block, cell), definition))
  else report.edit('Clear cell', definition => setText(definition, place.value!, ''))
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
  else if (control && letter === 'd' && block.value) report.edit('Duplicate block', now => duplicateBlock(now, block.value!.id))
  else if (event.altKey && (event.key === 'PageUp' || event.key === 'PageDown') && block.value)
    report.edit('Move block', now => shiftBlock(now, block.value!.id, event.key === 'PageUp' ? -1 : 1))
  else if (event.altKey && statement.value && line.value && (event.key === 'ArrowUp' || event.key === 'ArrowDown'))
    report.edit('Move line', now => moveLine(now, statement.value!.id, line.value!.id, event.key === 'ArrowUp' ? -1 : 1))
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
const step = (by: number) => show(Math.min(sheet.count - 1, Math.max(0, (view.value?.current ?? 0) + by)))
const zoomBy = (factor: number) => (zoom.value = Math.round(Math.min(3, Math.max(0.3, zoom.value * factor)) * 100) / 100)
/** Commands as a menu, in their groups. */
const menu = (list: readonly Command[]) =>
  [...new Set(list.map(each => each.group))].map(name => [
    { label: name, type: 'label' as const },
    ...list
      .filter(each => each.group === name)
      .map(each => ({
        label: each.label,
        ...(each.icon ? { icon: each.icon } : {}),
        ...(each.hint ? { description: each.hint } : {}),
        onSelect: () => void each.run(),
      })),
  ])
// typed into a copy: pages that come meanwhile draw the bar anew, and what is typed stays
const layoutName = ref('')
watch(
  () => report.layout?.name,
  name => (layoutName.value = name ?? ''),
  { immediate: true },
)
function nameLayout(): void {
  rename(layoutName.value)
  layoutName.value = report.layout!.name
}
const addOpen = ref(false)
function addAfter(beside: string): void {
  sheet.selection = { block: beside, part: 'block', page: selection.value?.page ?? 0, row: -1 }
  addOpen.value = true
}
</script>

<template>
  <div class="flex min-h-0 flex-col">
    <div class="bar flex h-10 shrink-0 items-center gap-1.5 border-b border-default px-3 text-sm" role="toolbar" aria-label="Sheet">
      <UDropdownMenu :items="menu(layouts)" :content="{ align: 'start' }"
        ><UButton
          size="sm"
          variant="ghost"
          color="neutral"
          icon="i-lucide-files"
          trailing-icon="i-lucide-chevron-down"
          aria-label="Layouts"
          title="Layouts"
      /></UDropdownMenu>
      <input
        v-model="layoutName"
        class="w-28 rounded-md border border-transparent bg-transparent px-1.5 py-0.5 font-medium hover:border-default focus:border-default"
        aria-label="Name of this layout"
        @change="nameLayout"
      />
      <span class="mx-1 h-5 border-l border-default" />
      <UDropdownMenu v-model:open="addOpen" :items="menu(insertions)" :content="{ align: 'start' }" :ui="{ content: 'max-h-96' }"
        ><UButton size="sm" variant="outline" color="neutral" icon="i-lucide-plus" trailing-icon="i-lucide-chevron-down"
          >Add</UButton
        ></UDropdownMenu
      >
      <UDropdownMenu :items="menu(drafts)" :content="{ align: 'start' }"
        ><UButton size="sm" variant="ghost" color="neutral" icon="i-lucide-wand-sparkles" trailing-icon="i-lucide-chevron-down"
          >Draft</UButton
        ></UDropdownMenu
      >
      <UDropdownMenu :items="menu(jumps)" :content="{ align: 'start' }" :ui="{ content: 'max-h-96' }"
        ><UButton size="sm" variant="ghost" color="neutral" icon="i-lucide-crosshair" trailing-icon="i-lucide-chevron-down"
          >Show me</UButton
        ></UDropdownMenu
      >
      <UButton size="sm" variant="ghost" color="neutral" icon="i-lucide-history" @click="comparing = true">Versions</UButton>
      <form v-if="finding" class="ml-auto flex items-center gap-1.5" @submit.prevent="findNext">
        <input
          v-model="wanted"
          data-find
          class="w-44 rounded-md border border-default bg-default px-2 py-1"
          placeholder="Find on the sheet"
          aria-label="Find on the sheet"
          @keydown.esc.stop="finding = false"
        /><span class="w-28 text-xs text-muted" aria-live="polite">{{ found }}</span
        ><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-x" aria-label="Close find" @click="finding = false" />
      </form>
      <UButton
        v-else
        class="ml-auto"
        size="sm"
        variant="ghost"
        color="neutral"
        icon="i-lucide-search"
        aria-label="Find on the sheet"
        @click="find"
      />
      <UTooltip :text="side ? 'One page under the other' : 'Pages side by side'"
        ><UButton
          size="sm"
          :variant="side ? 'soft' : 'ghost'"
          color="neutral"
          icon="i-lucide-columns-2"
          aria-label="Pages side by side"
          :aria-pressed="side"
          @click="side = !side"
      /></UTooltip>
      <UTooltip text="Fit the width" :kbds="['ctrl', '0']"
        ><UButton size="sm" variant="ghost" color="neutral" icon="i-lucide-maximize-2" aria-label="Fit the width" @click="fit"
      /></UTooltip>
    </div>
    <div class="flex min-h-0 grow">
      <FieldList @put="putAtSelection" />
      <main ref="desk" class="relative min-w-0 grow" aria-label="Sheet" @keydown="key">
        <div v-if="report.rows?.empty" class="desk grid h-full place-items-center">
          <p class="font-display text-lg">{{ report.rows.empty }} Choose other answers in Run, or change the filters in Data.</p>
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
    <LazySheetVersionCompare v-if="comparing" @close="comparing = false" />
    <footer
      class="bar flex h-11 shrink-0 items-center gap-3 border-t border-default px-4 text-sm"
      :style="level ? { '--level': levelColour(level.index) } : {}"
    >
      <template v-if="level"
        ><span class="level-mark" /><span class="font-semibold">{{ level.caption }}</span
        ><code class="truncate font-mono text-xs" data-formula>{{ formulas }}</code>
        <UButton
          v-if="selection?.cell"
          size="xs"
          variant="outline"
          color="neutral"
          class="shrink-0"
          :aria-expanded="tracing"
          @click="tracing = !tracing"
          >{{ behind ?? 'Trace' }}</UButton
        >
      </template>
      <span v-else class="truncate text-muted"
        >Click a cell to select it, double-click or Enter to write in it; drag a field onto the sheet. Ctrl K finds every command.</span
      >
      <span class="ml-auto flex shrink-0 items-center gap-1 text-muted">
        <UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-zoom-out" aria-label="Smaller" @click="zoomBy(1 / 1.15)" />{{
          Math.round((zoom / (96 / 72)) * 100)
        }}
        %<UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-zoom-in" aria-label="Larger" @click="zoomBy(1.15)" />
        <span class="pl-3" data-page-count
          ><span v-if="sample" class="text-apricot-700 dark:text-apricot-300" title="A full run reads them all">{{ sample }} · </span
          ><template v-if="(current?.record ?? -1) >= 0">{{ rootCaption }} {{ current!.record + 1 }} of {{ rootCount }}</template
          ><template v-else>{{ counted(rootCount, rootCaption) }}</template> · page {{ (view?.current ?? 0) + 1 }} of
          {{ sheet.total ?? '…' }}</span
        >
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-chevron-left"
          aria-label="Page before"
          @click="step(-1)"
        /><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-chevron-right" aria-label="Next page" @click="step(1)" />
      </span>
    </footer>
  </div>
</template>
