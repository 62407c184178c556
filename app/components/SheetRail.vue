<script setup lang="ts">
import { isRepeat } from '../../core/definition/blocks/block'
import { isTable } from '../../core/definition/blocks/table'
import type { Box } from '../../core/compose/page'
import { blocksOf, findBlock, layoutOf, moveBlock } from '../../core/definition/edits/edits'
import type { Bracket } from '../composables/brackets'

/** Beside a page: brackets of its blocks, and the rows of the selected table. */
const { boxes, brackets, index, zoom } = defineProps<{ boxes: readonly Box[]; brackets: readonly Bracket[]; index: number; zoom: number }>()
const emit = defineEmits<{ add: [beside: string, event: MouseEvent]; focus: [] }>()
const report = useReport()
const sheet = useSheet()
const definition = computed(() => report.definition!)
const layout = computed(() => report.layout!)
const px = (points: number) => `${points * zoom}px`

/** Kinds of rows of the selected table, where each first stands on this page. */
interface RowMark {
  rowId: string
  part: Box['part']
  label: string
  top: number
  bottom: number
  colour: string
  box: Box
}
const rowMarks = computed<RowMark[]>(() => {
  const block = sheet.selection && findBlock(definition.value, sheet.selection.block)
  // too small to be read
  if (!isTable(block) || !report.tree || zoom < 0.55) return []
  const colour = levelColour(levelOfBlock(definition.value, report.tree.levels, block.id))
  const marks: RowMark[] = []
  const seen = new Set<string>()
  for (const box of boxes) {
    if (box.block !== block.id || !box.rowId || box.cell || seen.has(box.rowId)) continue
    seen.add(box.rowId)
    const row = block.rows.find(each => each.id === box.rowId)
    if (row)
      marks.push({
        rowId: row.id,
        part: row.kind,
        label: row.group ? `${partWords(row.kind)}: ${row.group.replaceAll('_', ' ')}` : partWords(row.kind),
        top: box.y,
        bottom: box.y + box.height,
        colour,
        box,
      })
  }
  return marks
})
function selectRow(mark: RowMark): void {
  const first = boxes.find(box => box.block === mark.box.block && box.rowId === mark.rowId && box.cell)
  sheet.editing = false
  sheet.selection = {
    block: mark.box.block,
    part: mark.part,
    rowId: mark.rowId,
    page: index,
    row: mark.box.row,
    ...(first?.cell ? { cell: first.cell } : {}),
  }
  emit('focus')
}
/** A bracket is dragged to another one: its block goes before or after that one. */
const dropAt = shallowRef<{ id: string; side: 'before' | 'after'; y: number }>()
function grab(event: PointerEvent, bracket: Bracket): void {
  sheet.editing = false
  sheet.selection = { block: bracket.id, part: 'block', page: index, row: -1 }
  emit('focus')
  if (bracket.level < 0) return
  const start = (event.currentTarget as HTMLElement).parentElement!.getBoundingClientRect()
  const fromY = (event.clientY - start.top) / zoom
  followPointer(
    event,
    () => zoom,
    (_, dy) => {
      const y = fromY + dy
      const over = brackets.filter(each => each.id !== bracket.id && each.level >= 0 && y >= each.top && y <= each.bottom).at(-1)
      const side = over && y < (over.top + over.bottom) / 2 ? 'before' : 'after'
      dropAt.value = over ? { id: over.id, side, y: side === 'before' ? over.top : over.bottom } : undefined
    },
    4,
    () => {
      const to = dropAt.value
      dropAt.value = undefined
      if (to) report.edit(t('common.moveBlock'), current => moveBlock(current, bracket.id, to.id, to.side))
    },
  )
}
/** A row that begins where a block's name stands says its own under it, where there is room for both. */
const besideName = (mark: { top: number }) => brackets.some(each => Math.abs(each.top - mark.top) * zoom < 13)
const named = (mark: { top: number; bottom: number }) => !besideName(mark) || (mark.bottom - mark.top) * zoom >= 24
const bracketColour = ({ level }: Bracket) => (level < 0 ? 'var(--ui-text-dimmed)' : levelColour(level))
const isChosen = (bracket: Bracket) => sheet.selection?.block === bracket.id
const canAdd = (bracket: Bracket) =>
  bracket.level >= 0 &&
  !!layoutOf(definition.value, bracket.id) &&
  blocksOf(layout.value).some(each => each.id === bracket.id && !isRepeat(each))
</script>

<template>
  <div class="absolute inset-y-0 right-full w-28" role="group" :aria-label="t('sheetRail.rail')">
    <template v-for="bracket in brackets" :key="bracket.id">
      <button
        class="absolute cursor-grab touch-none rounded-l-md border-y-2 border-l-2 text-left text-toned"
        :data-bracket="bracket.id"
        :style="{
          top: px(bracket.top),
          height: `${Math.max(14, (bracket.bottom - bracket.top) * zoom)}px`,
          left: `${4 + bracket.depth * 50}px`,
          right: '4px',
          borderColor: `color-mix(in srgb, ${bracketColour(bracket)} ${isChosen(bracket) ? 100 : 60}%, transparent)`,
          background: isChosen(bracket) ? `color-mix(in srgb, ${bracketColour(bracket)} 7%, transparent)` : '',
        }"
        :aria-label="t('sheetRail.select', { label: bracket.label })"
        :title="t('sheetRail.dragToMove', { label: bracket.label })"
        @pointerdown.prevent="grab($event, bracket)"
        @keydown.enter="sheet.selection = { block: bracket.id, part: 'block', page: index, row: -1 }"
      >
        <span class="absolute left-1 top-0 truncate text-[11px] leading-tight" :style="{ maxWidth: bracket.inner ? '44px' : '100%' }">{{
          bracket.label
        }}</span>
      </button>
      <button
        v-if="canAdd(bracket)"
        :class="[
          'absolute z-10 grid size-4 place-items-center rounded-full border border-default',
          'bg-default text-xs leading-none text-muted opacity-0 hover:opacity-100 focus-visible:opacity-100',
          sheet.selection?.block === bracket.id ? 'opacity-100' : '',
        ]"
        :style="{ top: `${bracket.bottom * zoom - 8}px`, right: '-6px' }"
        :aria-label="t('sheetRail.addABlockAfter', { label: bracket.label })"
        :title="t('sheetRail.addABlockHere')"
        @click="emit('add', bracket.id, $event)"
      >
        +
      </button>
    </template>
    <button
      v-for="mark in rowMarks"
      :key="mark.rowId"
      class="absolute z-10 max-w-[92px] truncate rounded-l px-1 text-right text-[10px] leading-none text-toned"
      :data-row-mark="mark.rowId"
      :class="sheet.selection?.rowId === mark.rowId ? 'font-semibold' : ''"
      :style="{
        top: px(mark.top),
        height: `${Math.max(11, (mark.bottom - mark.top) * zoom)}px`,
        right: '5px',
        borderRight: `3px solid ${mark.colour}`,
        background: 'var(--desk)',
      }"
      :aria-label="t('sheetRail.selectRow', { label: mark.label })"
      :title="mark.label"
      @click="selectRow(mark)"
    >
      <span v-if="named(mark)" :class="besideName(mark) ? 'mt-3 block truncate' : ''">{{ mark.label }}</span>
    </button>
    <div v-if="dropAt" class="pointer-events-none absolute inset-x-1 h-[3px] bg-apricot-500" :style="{ top: px(dropAt.y) }" />
  </div>
</template>
