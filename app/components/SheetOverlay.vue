<script setup lang="ts">
import { isCrosstab } from '../../core/definition/blocks/crosstab'
import { isPanel } from '../../core/definition/blocks/panel'
import { isTable } from '../../core/definition/blocks/table'
import { dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import type { Box, Page } from '../../core/compose/page'
import {
  findBlock,
  moveItems,
  setColumn,
  setColumnWidth,
  setItemWidth,
  setStyle,
  setText,
  textAt,
  type TextPlace,
} from '../../core/definition/edits/edits'

/** Over one page: selection, handles, dropping of fields, and writing in place. */
const { page, index, zoom } = defineProps<{ page: Page | undefined; index: number; zoom: number }>()
const emit = defineEmits<{
  add: [beside: string, event: MouseEvent]
  put: [level: number, path: string, box: Box, side: 'before' | 'after' | 'into', at: { x: number; y: number }]
}>()
const report = useReport()
const sheet = useSheet()
const surface = useTemplateRef('surface')
const definition = computed(() => report.definition!)
const boxes = computed(() => page?.boxes ?? [])
const px = (points: number) => `${points * zoom}px`
const place = (box: Pick<Box, 'x' | 'y' | 'width' | 'height'>) => ({
  left: px(box.x),
  top: px(box.y),
  width: px(box.width),
  height: px(box.height),
})

/** The innermost box under a point of the page. */
function boxAt(x: number, y: number): Box | undefined {
  for (let at = boxes.value.length - 1; at >= 0; at--) {
    const box = boxes.value[at]!
    if (x >= box.x && x <= box.x + box.width && y >= box.y && y <= box.y + box.height && (box.cell || box.part === 'block')) return box
  }
  return undefined
}
/** What the mark under the pointer shows. */
const told = ref<string>()
function tell(event: PointerEvent): void {
  const { x, y } = pointOf(event)
  const box = boxAt(x, y)
  told.value = box?.cell ? box.label : undefined
}
function pointOf(event: { clientX: number; clientY: number }): { x: number; y: number } {
  const frame = surface.value!.getBoundingClientRect()
  return { x: (event.clientX - frame.left) / zoom, y: (event.clientY - frame.top) / zoom }
}

const selected = computed(() => {
  const { selection } = sheet
  if (!selection) return undefined
  return boxes.value.find(
    box =>
      box.block === selection.block &&
      box.part === selection.part &&
      box.cell === selection.cell &&
      (!selection.rowId || box.rowId === selection.rowId) &&
      (selection.page !== index || selection.row < 0 || box.row === selection.row),
  )
})
const here = computed(() => (sheet.selection?.page === index ? selected.value : undefined))
/** More items or cells that are selected together. */
const others = computed(() => {
  const { selection } = sheet
  if (!selection?.more?.length || selection.page !== index) return []
  return boxes.value.filter(
    box =>
      box.block === selection.block &&
      box.part === selection.part &&
      box.cell &&
      selection.more!.includes(box.cell) &&
      box.row === selection.row &&
      box.rowId === selection.rowId,
  )
})
/** All cells of the selected column on this page. */
const band = computed(() => {
  const { selection } = sheet
  if (!selection?.cell || selection.part === 'item') return undefined
  const cells = boxes.value.filter(box => box.block === selection.block && box.cell === selection.cell)
  if (!cells.length) return undefined
  const top = Math.min(...cells.map(box => box.y))
  return { x: cells[0]!.x, y: top, width: cells[0]!.width, height: Math.max(...cells.map(box => box.y + box.height)) - top }
})
const columnEdges = computed(() => {
  const { selection } = sheet
  const block = selection && findBlock(definition.value, selection.block)
  if (!isTable(block)) return []
  const rows = boxes.value.filter(box => box.block === block.id)
  if (!rows.length) return []
  const top = Math.min(...rows.map(box => box.y))
  const height = Math.max(...rows.map(box => box.y + box.height)) - top
  const shown = block.columns.filter(column => !column.hidden)
  return shown.flatMap((column, at) => {
    const cell = rows.find(box => box.cell === column.id)
    return cell
      ? [
          {
            column,
            at,
            x: cell.x + cell.width,
            width: cell.width,
            y: top,
            height,
            last: at === shown.length - 1,
            next: shown[at + 1],
            nextWidth: rows.find(box => box.cell === shown[at + 1]?.id)?.width ?? 0,
          },
        ]
      : []
  })
})

function select(event: PointerEvent): void {
  const box = boxAt(pointOf(event).x, pointOf(event).y)
  sheet.editing = false
  const { selection } = sheet
  surface.value?.focus({ preventScroll: true })
  if (
    event.shiftKey &&
    box?.cell &&
    selection?.cell &&
    box.block === selection.block &&
    box.part === selection.part &&
    box.cell !== selection.cell &&
    box.rowId === selection.rowId
  ) {
    const more = selection.more ?? []
    sheet.selection = { ...selection, more: more.includes(box.cell) ? more.filter(each => each !== box.cell) : [...more, box.cell] }
    return
  }
  if (box?.cell && selection?.block === box.block && selection.more?.includes(box.cell) && box.part === 'item') return startMove(event, box)
  sheet.selection = box
    ? {
        block: box.block,
        part: box.part,
        ...(box.rowId ? { rowId: box.rowId } : {}),
        ...(box.cell ? { cell: box.cell } : {}),
        page: index,
        row: box.row,
      }
    : undefined
  if (box?.part === 'item' && box.cell) startMove(event, box)
  else if (box && titles.isTitle(box)) startTitle(event, box)
}

// titles of a crosstab's groups are dragged into an order of one's own
const titles = useCrosstabTitles()
const { mark: titleMark, start: startTitle } = useTitleDrag(titles, {
  zoom: () => zoom,
  boxAt: event => {
    const { x, y } = pointOf(event)
    const box = boxAt(x, y)
    return box && { box, x, y }
  },
})

function textPlace(): TextPlace | undefined {
  const { selection } = sheet
  return selection?.cell && selection.part !== 'block'
    ? { block: selection.block, cell: selection.cell, part: selection.part, ...(selection.rowId ? { row: selection.rowId } : {}) }
    : undefined
}
const editable = computed(() => {
  const at = textPlace()
  return at ? textAt(definition.value, at) : undefined
})
function write(): void {
  if (editable.value !== undefined) sheet.editing = true
}
function commit(text: string): void {
  const at = textPlace()!
  sheet.editing = false
  report.edit(t('common.text2'), current => setText(current, at, text))
  surface.value?.focus({ preventScroll: true })
}

function withMarks(): void {
  const at = sheet.selection!
  report.edit(t('sheetOverlay.marks'), current =>
    setStyle(current, at.block, at.cell!, { marks: true }, at.part === 'item' ? undefined : at.rowId),
  )
}

// moving items of a panel: edges near those of other items are taken on, and shown as guides
const guides = shallowRef<{ x?: number; y?: number }>({})
function startMove(event: PointerEvent, box: Box): void {
  const block = findBlock(definition.value, box.block)
  const item = isPanel(block) ? block.items.find(each => each.id === box.cell) : undefined
  if (!item || !isPanel(block)) return
  const moved = [...new Set([box.cell!, ...(sheet.selection!.cell ? [sheet.selection!.cell] : []), ...(sheet.selection!.more ?? [])])]
  const still = block.items.filter(each => !moved.includes(each.id))
  const own = boxes.value.find(each => each.block === box.block && !each.cell)!
  let [doneX, doneY] = [0, 0]
  followPointer(
    event,
    () => zoom,
    (dx, dy) => {
      const near = (value: number, edges: number[]) =>
        edges
          .map(edge => ({ edge, far: Math.abs(edge - value) }))
          .filter(each => each.far < 3)
          .sort((a, b) => a.far - b.far)[0]?.edge
      const lefts = near(
        item.x + dx,
        still.flatMap(each => [each.x, each.x + each.width]),
      )
      const rights = near(
        item.x + item.width + dx,
        still.flatMap(each => [each.x, each.x + each.width]),
      )
      const tops = near(
        item.y + dy,
        still.map(each => each.y),
      )
      const toX = lefts ?? (rights === undefined ? item.x + dx : rights - item.width)
      const toY = tops ?? item.y + dy
      guides.value = {
        ...((lefts ?? rights) === undefined ? {} : { x: own.x + (lefts ?? rights)! }),
        ...(tops === undefined ? {} : { y: own.y + tops }),
      }
      const [wantX, wantY] = [toX - item.x, toY - item.y]
      report.edit(
        t('sheetOverlay.move'),
        current => moveItems(current, box.block, moved, wantX - doneX, wantY - doneY),
        `move ${box.block} ${item.id} ${event.timeStamp}`,
      )
      ;[doneX, doneY] = [wantX, wantY]
    },
    3,
    () => (guides.value = {}),
  )
}
function startItemWidth(event: PointerEvent): void {
  const box = here.value!
  const block = findBlock(definition.value, box.block)
  const item = isPanel(block) ? block.items.find(each => each.id === box.cell) : undefined
  if (item)
    followPointer(
      event,
      () => zoom,
      dx =>
        report.edit(t('common.width'), current => setItemWidth(current, box.block, item.id, item.width + dx), `width ${event.timeStamp}`),
    )
}
/** Double-click on an edge: as wide as the longest value on the pages at hand needs. */
function fitWidth(edge: (typeof columnEdges.value)[number]): void {
  report.edit(t('sheetOverlay.columnWidth'), current => setColumn(current, sheet.selection!.block, edge.column.id, { fit: true }))
}
/** An edge between two columns: the left one takes or gives, and the right one too where both are fixed. */
function startWidth(event: PointerEvent, edge: (typeof columnEdges.value)[number]): void {
  const block = sheet.selection!.block
  followPointer(
    event,
    () => zoom,
    dx => {
      report.edit(
        t('sheetOverlay.columnWidth'),
        current => {
          if (edge.column.width === 0 && edge.next) return setColumnWidth(current, block, edge.next.id, edge.nextWidth - dx)
          return setColumnWidth(current, block, edge.column.id, edge.width + dx)
        },
        `width ${edge.column.id} ${event.timeStamp}`,
      )
    },
  )
}
// fields dropped from the list
const target = shallowRef<{ box: Box; side: 'before' | 'after' | 'into' }>()
function targetAt(input: { clientX: number; clientY: number }): typeof target.value {
  const { x, y } = pointOf(input)
  const box = boxAt(x, y)
  if (!box) return undefined
  // a crosstab takes a field by what it is dropped on, not beside it
  if (box.part === 'block' || box.part === 'item' || isCrosstab(findBlock(definition.value, box.block))) return { box, side: 'into' }
  const edge = Math.min(10, box.width / 3)
  return { box, side: x < box.x + edge ? 'before' : x > box.x + box.width - edge ? 'after' : 'into' }
}
onMounted(() => {
  const stop = dropTargetForElements({
    element: surface.value!,
    canDrop: ({ source }) => 'field' in source.data,
    onDrag: ({ location }) => (target.value = targetAt(location.current.input)),
    onDragLeave: () => (target.value = undefined),
    onDrop: ({ source, location }) => {
      const at = targetAt(location.current.input)
      target.value = undefined
      const field = source.data.field as { level: number; path: string }
      if (at) emit('put', field.level, field.path, at.box, at.side, pointOf(location.current.input))
    },
  })
  onBeforeUnmount(stop)
})
const dropMark = computed(() => {
  const at = target.value
  if (!at) return undefined
  if (at.side === 'into') return { ...place(at.box), background: 'rgb(224 122 63 / .18)' }
  const rows = boxes.value.filter(box => box.block === at.box.block)
  const top = Math.min(...rows.map(box => box.y))
  const bottom = Math.max(...rows.map(box => box.y + box.height))
  return {
    left: px((at.side === 'before' ? at.box.x : at.box.x + at.box.width) - 1),
    top: px(top),
    width: '3px',
    height: px(bottom - top),
    background: 'var(--color-apricot-500)',
  }
})

const layout = computed(() => report.layout!)
const brackets = computed(() => (report.tree ? bracketsOf(boxes.value, definition.value, layout.value, report.tree.levels) : []))
/** The selected block, where it is selected as a whole. */
const framed = computed(() => brackets.value.find(each => each.id === sheet.selection?.block))
</script>

<template>
  <div>
    <SheetRail
      :boxes="boxes"
      :brackets="brackets"
      :index="index"
      :zoom="zoom"
      @add="(beside, event) => emit('add', beside, event)"
      @focus="surface?.focus({ preventScroll: true })"
    />
    <StatementFolds v-if="page" :folds="sheet.folds(page)" :zoom="zoom" @toggle="sheet.toggleFold" />
    <div
      ref="surface"
      class="absolute inset-0 cursor-default outline-none"
      tabindex="0"
      role="group"
      :aria-label="t('sheetOverlay.page', { what: index + 1 })"
      :title="told"
      @pointermove="tell"
      @pointerdown="select"
      @dblclick="write"
      @keydown.enter.prevent.self="write"
    >
      <div v-if="band" class="pointer-events-none absolute" :style="{ ...place(band), background: 'rgb(224 122 63 / .09)' }" />
      <div
        v-if="sheet.selection?.part === 'block'"
        class="pointer-events-none absolute border-2 border-apricot-500/60"
        :style="
          framed
            ? {
                left: px(page?.width ? layout.page.margins.left - 3 : 0),
                right: px(layout.page.margins.right - 3),
                top: px(framed.top - 2),
                height: px(framed.bottom - framed.top + 4),
              }
            : { display: 'none' }
        "
      />
      <div v-else-if="here" class="pointer-events-none absolute border-2 border-apricot-500" :style="place(here)" data-selected />
      <div
        v-for="box in others"
        :key="box.cell"
        class="pointer-events-none absolute border-2 border-dashed border-apricot-500"
        :style="place(box)"
      />
      <div
        v-if="guides.x !== undefined"
        class="pointer-events-none absolute inset-y-0 w-px bg-apricot-500"
        :style="{ left: px(guides.x) }"
      />
      <div
        v-if="guides.y !== undefined"
        class="pointer-events-none absolute inset-x-0 h-px bg-apricot-500"
        :style="{ top: px(guides.y) }"
      />
      <button
        v-for="edge in columnEdges"
        v-show="!edge.last"
        :key="edge.column.id"
        class="absolute z-10 w-[7px] -translate-x-1/2 cursor-col-resize hover:bg-apricot-500/40"
        tabindex="-1"
        :aria-label="t('sheetOverlay.rightEdgeOf', { id: edge.column.id })"
        :title="t('sheetOverlay.dragForTheWidthDouble')"
        :data-edge="edge.column.id"
        :style="{ left: px(edge.x), top: px(edge.y), height: px(edge.height) }"
        @dblclick.stop="fitWidth(edge)"
        @pointerdown.stop.prevent="startWidth($event, edge)"
      />
      <button
        v-if="here?.part === 'item'"
        :class="[
          'absolute z-10 size-[9px] -translate-x-1/2 -translate-y-1/2 cursor-ew-resize rounded-full',
          'border-2 border-white bg-apricot-500',
        ]"
        tabindex="-1"
        :aria-label="t('sheetOverlay.widthOfThisText')"
        :style="{ left: px(here.x + here.width), top: px(here.y + here.height / 2) }"
        @pointerdown.stop.prevent="startItemWidth"
      />
      <div v-if="titleMark" class="pointer-events-none absolute z-20" :style="titleMark" data-drop />
      <div v-if="dropMark" class="pointer-events-none absolute z-20" :style="dropMark" data-drop />
      <CellEditor
        v-if="sheet.editing && here && editable !== undefined"
        :text="editable"
        :block="here.block"
        :row="sheet.selection?.rowId"
        :at-right="!!page && here.x > page.width * 0.55"
        :style="{
          ...(page && here.x > page.width * 0.55 ? { right: px(page.width - here.x - here.width - 2) } : { left: px(here.x - 2) }),
          top: px(here.y - 2),
          width: px(here.width + 4),
        }"
        @marks="withMarks"
        @commit="commit"
        @cancel="
          () => {
            sheet.editing = false
            surface?.focus()
          }
        "
      />
    </div>
  </div>
</template>
