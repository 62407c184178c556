<script setup lang="ts">
/**
 * A text that is taken when its writer leaves the field or presses Enter. What is being typed stays, whatever happens around the field;
 * Escape brings back what was there. `rows` makes it a text of several lines.
 */
const {
  value = '',
  rows = 0,
  size = 'md',
  mono = false,
  grows = false,
} = defineProps<{
  value?: string | number | undefined
  rows?: number | string
  size?: 'xs' | 'sm' | 'md'
  mono?: boolean
  grows?: boolean
}>()
const emit = defineEmits<{ write: [text: string] }>()

const { shown, type, take, keys } = useDraft(
  () => String(value ?? ''),
  text => emit('write', text),
)
const base = computed(() => [mono ? 'font-mono' : '', grows ? 'field-sizing-content' : ''].join(' '))
</script>

<template>
  <UTextarea
    v-if="Number(rows)"
    :model-value="shown"
    :rows="Number(rows)"
    :size="size"
    :ui="{ base }"
    @keydown.stop="keys"
    @update:model-value="type"
    @change="take"
    @blur="take"
  />
  <UInput
    v-else
    :model-value="shown"
    :size="size"
    :ui="{ base }"
    @keydown.stop="keys"
    @update:model-value="type"
    @change="take"
    @blur="take"
  />
</template>
