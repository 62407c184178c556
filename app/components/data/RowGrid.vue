<script setup lang="ts">
import type { FieldInfo } from '../../../core/formula/typed'

/** Rows in columns: a head that sorts, hides and widens, cells that can be selected and copied. Under a row there may be more. */
export interface GridColumn {
  key: string
  field: FieldInfo
  level: string
  /** header fields that repeat on each row */ faint?: boolean
}
const {
  columns,
  count,
  text,
  opened,
  opens = false,
} = defineProps<{
  columns: GridColumn[]
  count: number
  text: (column: GridColumn, row: number) => string
  opens?: boolean
  opened?: ReadonlySet<number>
}>()
const emit = defineEmits<{
  toggle: [row: number]
  sort: [column: GridColumn, direction: 'up' | 'down' | 'none']
  hide: [column: GridColumn]
  pick: [column: GridColumn]
}>()
const data = useData()
const widths = reactive<Record<string, number>>({})
const right = (field: FieldInfo) => field.type === 'number' && field.role !== 'key'
const sortOf = (column: GridColumn) => {
  const sort = data.level(column.level)?.definition.sort ?? []
  const at = sort.findIndex(each => each.field === column.field.path)
  return at < 0 ? undefined : { descending: sort[at]!.descending, place: at + 1, several: sort.length > 1 }
}
const menu = (column: GridColumn) => [
  [
    {
      label: t('rowGrid.sortUp'),
      icon: 'i-lucide-arrow-up-narrow-wide',
      disabled: column.field.inSql === false,
      onSelect: () => emit('sort', column, 'up'),
    },
    {
      label: t('rowGrid.sortDown'),
      icon: 'i-lucide-arrow-down-wide-narrow',
      disabled: column.field.inSql === false,
      onSelect: () => emit('sort', column, 'down'),
    },
    ...(sortOf(column) ? [{ label: t('rowGrid.doNotSortByIt'), icon: 'i-lucide-x', onSelect: () => emit('sort', column, 'none') }] : []),
  ],
  [
    { label: t('rowGrid.whatItHolds'), icon: 'i-lucide-chart-column', onSelect: () => emit('pick', column) },
    { label: t('rowGrid.hide'), icon: 'i-lucide-eye-off', onSelect: () => emit('hide', column) },
  ],
]

function widen(event: PointerEvent, column: GridColumn): void {
  const head = (event.target as HTMLElement).closest('th')!
  const start = { x: event.clientX, width: head.getBoundingClientRect().width }
  const move = (each: PointerEvent) => (widths[column.key] = Math.max(36, start.width + each.clientX - start.x))
  const up = () => {
    window.removeEventListener('pointermove', move)
    window.removeEventListener('pointerup', up)
  }
  window.addEventListener('pointermove', move)
  window.addEventListener('pointerup', up)
  event.preventDefault()
}

const narrow = (column: GridColumn) => Reflect.deleteProperty(widths, column.key)

interface Cell {
  row: number
  column: number
}
const from = ref<Cell>()
const to = ref<Cell>()
const marked = (row: number, column: number) => {
  if (!from.value || !to.value) return false
  const within = (value: number, a: number, b: number) => value >= Math.min(a, b) && value <= Math.max(a, b)
  return within(row, from.value.row, to.value.row) && within(column, from.value.column, to.value.column)
}
let dragging = false
function press(event: PointerEvent, row: number, column: number): void {
  if (event.button) return
  dragging = true
  to.value = { row, column }
  if (!event.shiftKey || !from.value) from.value = { row, column }
}
function over(row: number, column: number): void {
  if (dragging) to.value = { row, column }
}
useEventListener(window, 'pointerup', () => (dragging = false))
/** Cells as text with tabs and lines between, with a true minus made plain, so that a spreadsheet reads the figures. */
function copied(): string {
  const [top, bottom] = [from.value!.row, to.value!.row].sort((a, b) => a - b) as [number, number]
  const [left, last] = [from.value!.column, to.value!.column].sort((a, b) => a - b) as [number, number]
  return Array.from({ length: bottom - top + 1 }, (_, row) =>
    columns
      .slice(left, last + 1)
      .map(column =>
        text(column, top + row)
          .replace(/^−/, '-')
          .replace(/[\t\n]/g, ' '),
      )
      .join('\t'),
  ).join('\n')
}
function key(event: KeyboardEvent): void {
  const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key]
  if (step && to.value) {
    const next = {
      row: Math.min(count - 1, Math.max(0, to.value.row + step[0]!)),
      column: Math.min(columns.length - 1, Math.max(0, to.value.column + step[1]!)),
    }
    to.value = next
    if (!event.shiftKey) from.value = next
    event.preventDefault()
  } else if (event.key === 'Enter' && to.value && opens) emit('toggle', to.value.row)
  else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'c' && from.value && !window.getSelection()?.toString()) {
    void navigator.clipboard.writeText(copied())
    event.preventDefault()
  }
}
</script>

<template>
  <table class="min-w-full border-separate border-spacing-0 text-[13px] outline-none" tabindex="0" @keydown="key">
    <thead>
      <tr>
        <th v-if="opens" class="sticky top-0 z-10 w-8 border-b border-default bg-default" />
        <th
          v-for="column in columns"
          :key="column.key"
          class="group/head sticky top-0 z-10 whitespace-nowrap border-b border-default bg-default p-0 font-semibold"
          :class="right(column.field) ? 'text-right' : 'text-left'"
          :style="{
            borderBottomColor: levelColour(column.field.level),
            ...(widths[column.key] ? { width: `${widths[column.key]}px`, maxWidth: `${widths[column.key]}px` } : {}),
          }"
          :data-head="`${column.level}.${column.field.path}`"
          :aria-sort="sortOf(column) ? (sortOf(column)!.descending ? 'descending' : 'ascending') : undefined"
        >
          <div class="flex items-center px-1" :class="right(column.field) ? 'flex-row-reverse' : ''">
            <button class="min-w-0 truncate px-1.5 py-1.5" :title="`${column.level}.${column.field.path}`" @click="emit('pick', column)">
              {{ fieldTitle(column.field) }}
            </button>
            <span v-if="sortOf(column)" class="flex shrink-0 items-center text-xs text-muted"
              ><UIcon :name="sortOf(column)!.descending ? 'i-lucide-arrow-down' : 'i-lucide-arrow-up'" class="size-3" />{{
                sortOf(column)!.several ? sortOf(column)!.place : ''
              }}</span
            >
            <UDropdownMenu :items="menu(column)"
              ><button
                class="shrink-0 rounded p-0.5 text-dimmed opacity-0 hover:text-highlighted focus:opacity-100 group-hover/head:opacity-100"
                :aria-label="t('rowGrid.menuOf', { fieldTitle: fieldTitle(column.field) })"
              >
                <UIcon name="i-lucide-chevron-down" class="block size-3" /></button
            ></UDropdownMenu>
          </div>
          <span
            class="absolute inset-y-1 -right-1 z-10 w-2 cursor-col-resize"
            aria-hidden="true"
            @pointerdown="widen($event, column)"
            @dblclick="narrow(column)"
          />
        </th>
      </tr>
    </thead>
    <tbody>
      <template v-for="(_, row) in count" :key="row">
        <tr class="hover:bg-elevated/50" :data-root-row="opens ? row : undefined">
          <td v-if="opens" class="border-b border-muted pl-2">
            <button
              class="flex rounded p-0.5"
              :aria-expanded="opened?.has(row)"
              :aria-label="t('rowGrid.details')"
              @click="emit('toggle', row)"
            >
              <UIcon name="i-lucide-chevron-right" class="size-3.5 transition-transform" :class="opened?.has(row) ? 'rotate-90' : ''" />
            </button>
          </td>
          <td
            v-for="(column, at) in columns"
            :key="column.key"
            class="max-w-72 select-none truncate border-b border-muted px-2.5 py-1"
            :class="[
              right(column.field) ? 'text-right' : '',
              opened?.has(row) ? 'font-semibold' : '',
              column.faint ? 'text-muted' : '',
              marked(row, at) ? 'bg-petrol-100 dark:bg-petrol-900' : '',
            ]"
            :style="widths[column.key] ? { maxWidth: `${widths[column.key]}px` } : {}"
            @pointerdown="press($event, row, at)"
            @pointerenter="over(row, at)"
          >
            {{ text(column, row) }}
          </td>
        </tr>
        <tr v-if="opened?.has(row)">
          <td :colspan="columns.length + 1" class="border-b border-muted p-0 pl-9"><slot :row="row" /></td>
        </tr>
      </template>
    </tbody>
  </table>
</template>
