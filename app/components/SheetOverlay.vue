<script setup lang="ts">
import { dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import type { Box, Page } from '../../core/compose/page'
import { findBlock, moveItem, setColumnWidth, setItemWidth, setText, textAt, type TextPlace } from '../../core/definition/edits'
import type { Block } from '../../core/definition/types'

/** Over one page: selection, handles, the rail at its left, dropping of fields, and writing in place. */
const { page, index, zoom } = defineProps<{ page: Page | undefined, index: number, zoom: number }>()
const emit = defineEmits<{ put: [level: number, path: string, box: Box, side: 'before' | 'after' | 'into', at: { x: number, y: number }] }>()
const report = useReport()
const sheet = useSheet()
const surface = useTemplateRef('surface')
const definition = computed(() => report.definition!)
const boxes = computed(() => page?.boxes ?? [])
const px = (points: number) => `${points * zoom}px`
const place = (box: Pick<Box, 'x' | 'y' | 'width' | 'height'>) => ({ left: px(box.x), top: px(box.y), width: px(box.width), height: px(box.height) })

/** The innermost box under a point of the page. */
function boxAt(x: number, y: number): Box | undefined {
  for (let at = boxes.value.length - 1; at >= 0; at--) {
    const box = boxes.value[at]!
    if (x >= box.x && x <= box.x + box.width && y >= box.y && y <= box.y + box.height && (box.cell || box.part === 'block')) return box
  }
  return undefined
}
function pointOf(event: { clientX: number, clientY: number }): { x: number, y: number } {
  const frame = surface.value!.getBoundingClientRect()
  return { x: (event.clientX - frame.left) / zoom, y: (event.clientY - frame.top) / zoom }
}

const selected = computed(() => {
  const { selection } = sheet
  if (!selection) return undefined
  return boxes.value.find(box => box.block === selection.block && box.part === selection.part && box.cell === selection.cell && (selection.page !== index || box.row === selection.row))
})
const here = computed(() => sheet.selection?.page === index ? selected.value : undefined)
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
  if (block?.kind !== 'table') return []
  const rows = boxes.value.filter(box => box.block === block.id)
  if (!rows.length) return []
  const top = Math.min(...rows.map(box => box.y))
  const height = Math.max(...rows.map(box => box.y + box.height)) - top
  return block.columns.flatMap((column, at) => {
    const cell = rows.find(box => box.cell === column.id)
    return cell ? [{ column, at, x: cell.x + cell.width, width: cell.width, y: top, height, last: at === block.columns.length - 1, next: block.columns[at + 1], nextWidth: rows.find(box => box.cell === block.columns[at + 1]?.id)?.width ?? 0 }] : []
  })
})

function select(event: PointerEvent): void {
  const box = boxAt(pointOf(event).x, pointOf(event).y)
  sheet.editing = false
  sheet.selection = box ? { block: box.block, part: box.part, ...(box.cell ? { cell: box.cell } : {}), page: index, row: box.row } : undefined
  surface.value?.focus({ preventScroll: true })
  if (box?.part === 'item' && box.cell) startMove(event, box)
}

function textPlace(): TextPlace | undefined {
  const { selection } = sheet
  if (!selection) return undefined
  if (selection.part === 'forward' || selection.part === 'brought') return { block: selection.block, part: selection.part }
  return selection.cell ? { block: selection.block, cell: selection.cell, part: selection.part as 'line' } : undefined
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
  report.edit('Text', current => setText(current, at, text))
  surface.value?.focus({ preventScroll: true })
}

// moving an item of a panel
function startMove(event: PointerEvent, box: Box): void {
  const block = findBlock(definition.value, box.block)
  const item = block?.kind === 'panel' ? block.items.find(each => each.id === box.cell) : undefined
  if (!item) return
  drag(event, (dx, dy) => report.edit('Move', current => moveItem(current, box.block, item.id, item.x + dx, item.y + dy), `move ${box.block} ${item.id} ${event.timeStamp}`), 3)
}
function startItemWidth(event: PointerEvent): void {
  const box = here.value!
  const block = findBlock(definition.value, box.block)
  const item = block?.kind === 'panel' ? block.items.find(each => each.id === box.cell) : undefined
  if (item) drag(event, dx => report.edit('Width', current => setItemWidth(current, box.block, item.id, item.width + dx), `width ${event.timeStamp}`))
}
/** An edge between two columns: the left one takes or gives, and the right one too where both are fixed. */
function startWidth(event: PointerEvent, edge: (typeof columnEdges.value)[number]): void {
  const block = sheet.selection!.block
  drag(event, (dx) => {
    report.edit('Column width', (current) => {
      if (edge.column.width === 0 && edge.next) return setColumnWidth(current, block, edge.next.id, edge.nextWidth - dx)
      return setColumnWidth(current, block, edge.column.id, edge.width + dx)
    }, `width ${edge.column.id} ${event.timeStamp}`)
  })
}
function drag(event: PointerEvent, move: (dx: number, dy: number) => void, threshold = 0): void {
  const start = { x: event.clientX, y: event.clientY }
  let going = threshold === 0
  const onMove = (next: PointerEvent) => {
    const [dx, dy] = [next.clientX - start.x, next.clientY - start.y]
    going ||= Math.hypot(dx, dy) > threshold
    if (going) move(dx / zoom, dy / zoom)
  }
  const onUp = () => {
    window.removeEventListener('pointermove', onMove)
    window.removeEventListener('pointerup', onUp)
  }
  window.addEventListener('pointermove', onMove)
  window.addEventListener('pointerup', onUp)
}

// fields dropped from the list
const target = shallowRef<{ box: Box, side: 'before' | 'after' | 'into' }>()
function targetAt(input: { clientX: number, clientY: number }): typeof target.value {
  const { x, y } = pointOf(input)
  const box = boxAt(x, y)
  if (!box) return undefined
  if (box.part === 'block' || box.part === 'item') return { box, side: 'into' }
  const edge = Math.min(10, box.width / 3)
  return { box, side: x < box.x + edge ? 'before' : x > box.x + box.width - edge ? 'after' : 'into' }
}
onMounted(() => {
  const stop = dropTargetForElements({
    element: surface.value!,
    canDrop: ({ source }) => 'field' in source.data,
    onDrag: ({ location }) => target.value = targetAt(location.current.input),
    onDragLeave: () => target.value = undefined,
    onDrop: ({ source, location }) => {
      const at = targetAt(location.current.input)
      target.value = undefined
      const field = source.data.field as { level: number, path: string }
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
  return { left: px((at.side === 'before' ? at.box.x : at.box.x + at.box.width) - 1), top: px(top), width: '3px', height: px(bottom - top), background: 'var(--color-apricot-500)' }
})

// the rail: brackets of the blocks on this page
interface Bracket { id: string, label: string, level: number, depth: number, top: number, bottom: number, part?: Box['part'] }
const brackets = computed<Bracket[]>(() => {
  if (!page || !report.tree) return []
  const { levels } = report.tree
  const layout = definition.value.layouts[0]!
  const extent = (id: string) => {
    const own = boxes.value.filter(box => box.block === id)
    return own.length ? { top: Math.min(...own.map(box => box.y)), bottom: Math.max(...own.map(box => box.y + box.height)) } : undefined
  }
  const list: Bracket[] = []
  const visit = (blocks: readonly Block[], depth: number): { top: number, bottom: number } | undefined => {
    let whole: { top: number, bottom: number } | undefined
    for (const block of blocks) {
      const at = list.length
      const own = block.kind === 'repeat' ? visit(block.blocks, depth + 1) : extent(block.id)
      if (!own) continue
      const label = block.kind === 'repeat' ? levels[levelOfBlock(definition.value, levels, block.id)]!.caption.toLowerCase() : block.kind === 'table' ? block.level : block.id.replace(/([A-Z])/g, ' $1').toLowerCase()
      list.splice(at, 0, { id: block.id, label, level: levelOfBlock(definition.value, levels, block.id), depth, ...own })
      whole = { top: Math.min(whole?.top ?? own.top, own.top), bottom: Math.max(whole?.bottom ?? own.bottom, own.bottom) }
    }
    return whole
  }
  visit(layout.blocks, 0)
  for (const [block, label] of [[layout.top, 'top'], [layout.foot, 'foot']] as const) {
    const own = block && extent(block.id)
    if (own) list.push({ id: block.id, label, level: -1, depth: 1, ...own })
  }
  return list
})
function selectBlock(bracket: Bracket): void {
  sheet.editing = false
  sheet.selection = { block: bracket.id, part: 'block', page: index, row: -1 }
  surface.value?.focus({ preventScroll: true })
}
</script>

<template>
  <div>
    <div class="absolute inset-y-0 right-full w-28" aria-label="Rail">
      <button
        v-for="bracket in brackets" :key="bracket.id" class="absolute rounded-l-md border-y-2 border-l-2 text-left hover:opacity-100" :data-bracket="bracket.id"
        :class="sheet.selection?.block === bracket.id ? 'opacity-100' : 'opacity-60'" :style="{ top: px(bracket.top), height: `${Math.max(14, (bracket.bottom - bracket.top) * zoom)}px`, left: `${4 + bracket.depth * 50}px`, right: '4px', borderColor: bracket.level < 0 ? 'var(--ui-text-dimmed)' : levelColour(bracket.level), color: bracket.level < 0 ? 'var(--ui-text-muted)' : levelColour(bracket.level), background: sheet.selection?.block === bracket.id ? 'color-mix(in srgb, currentColor 10%, transparent)' : undefined }"
        :aria-label="`Select ${bracket.label}`" :title="bracket.label" @click="selectBlock(bracket)"
      ><span class="absolute left-1 top-0 max-w-full truncate text-[11px] leading-tight">{{ bracket.label }}</span></button>
    </div>
    <div ref="surface" class="absolute inset-0 cursor-default outline-none" tabindex="0" :aria-label="`Page ${index + 1}`" @pointerdown="select" @dblclick="write" @keydown.enter.prevent.self="write">
      <div v-if="band" class="pointer-events-none absolute" :style="{ ...place(band), background: 'rgb(224 122 63 / .09)' }" />
      <div v-if="sheet.selection?.part === 'block'" class="pointer-events-none absolute border-2 border-apricot-500/60" :style="brackets.find(each => each.id === sheet.selection!.block) ? { left: px(page?.width ? definition.layouts[0]!.page.margins.left - 3 : 0), right: px(definition.layouts[0]!.page.margins.right - 3), top: px(brackets.find(each => each.id === sheet.selection!.block)!.top - 2), height: px(brackets.find(each => each.id === sheet.selection!.block)!.bottom - brackets.find(each => each.id === sheet.selection!.block)!.top + 4) } : { display: 'none' }" />
      <div v-else-if="here" class="pointer-events-none absolute border-2 border-apricot-500" :style="place(here)" data-selected />
      <button v-for="edge in columnEdges" v-show="!edge.last" :key="edge.column.id" class="absolute z-10 w-[7px] -translate-x-1/2 cursor-col-resize hover:bg-apricot-500/40" tabindex="-1" :aria-label="`Right edge of ${edge.column.title || edge.column.id}`" :data-edge="edge.column.id" :style="{ left: px(edge.x), top: px(edge.y), height: px(edge.height) }" @pointerdown.stop.prevent="startWidth($event, edge)" />
      <button v-if="here?.part === 'item'" class="absolute z-10 size-[9px] -translate-x-1/2 -translate-y-1/2 cursor-ew-resize rounded-full border-2 border-white bg-apricot-500" tabindex="-1" aria-label="Width of this text" :style="{ left: px(here.x + here.width), top: px(here.y + here.height / 2) }" @pointerdown.stop.prevent="startItemWidth" />
      <div v-if="dropMark" class="pointer-events-none absolute z-20" :style="dropMark" data-drop />
      <CellEditor v-if="sheet.editing && here && editable !== undefined" :text="editable" :block="here.block" :at-right="!!page && here.x > page.width * 0.55" :style="{ ...(page && here.x > page.width * 0.55 ? { right: px(page.width - here.x - here.width - 2) } : { left: px(here.x - 2) }), top: px(here.y - 2), width: px(here.width + 4) }" @commit="commit" @cancel="sheet.editing = false; surface?.focus()" />
    </div>
  </div>
</template>
