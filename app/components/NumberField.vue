<script setup lang="ts">
/** A number that is taken when its writer leaves the field or presses Enter, within its bounds. */
const {
  value = '',
  least = -1e9,
  most = 1e9,
  step = 1,
  whole = false,
  size = 'md',
  tight = false,
  blank = false,
} = defineProps<{
  value?: number | string | undefined
  least?: number | string
  most?: number | string
  step?: number | string
  whole?: boolean
  size?: 'xs' | 'sm' | 'md'
  /** in the middle of a narrow field */
  tight?: boolean
  /** an emptied field says 0 even where that is out of bounds: none */
  blank?: boolean
}>()
const emit = defineEmits<{ write: [number: number] }>()

const { shown, type, take, keys } = useDraft(
  () => String(value ?? ''),
  text => {
    const read = Number(text.trim().replace(',', '.'))
    if (Number.isNaN(read)) return
    const kept = blank && !text.trim() ? 0 : Math.max(Number(least), Math.min(Number(most), whole ? Math.round(read) : read))
    emit('write', kept)
  },
)
/** Arrow keys count up and down. */
function count(event: KeyboardEvent): void {
  const by = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0
  const now = Number(shown.value || 0)
  if (!by || Number.isNaN(now)) return keys(event)
  event.preventDefault()
  type(String(Math.max(Number(least), Math.min(Number(most), Math.round((now + by * Number(step)) * 100) / 100))))
  take()
}
</script>

<template>
  <UInput
    :model-value="shown"
    inputmode="decimal"
    :size="size"
    :ui="{ base: tight ? 'text-center px-0.5' : 'text-right px-2' }"
    @keydown.stop="count"
    @update:model-value="type"
    @change="take"
    @blur="take"
  />
</template>
