<script setup lang="ts">
import equal from 'fast-deep-equal'
import { Fragment, isVNode, type VNode } from 'vue'

/** One of a few values, which its `option` children name, as those of a form do; groups of them have a heading. */
const {
  value = undefined,
  modelValue = undefined,
  size = 'md',
  disabled = false,
  placeholder = undefined,
} = defineProps<{
  value?: string | number | undefined
  modelValue?: string | undefined
  size?: 'xs' | 'sm' | 'md'
  disabled?: boolean
  placeholder?: string
}>()
const emit = defineEmits<{ pick: [value: string]; 'update:modelValue': [value: string] }>()
defineSlots<{ default: () => VNode[] }>()

interface Item {
  label: string
  value?: string
  type?: 'label'
  disabled?: boolean
  class?: string
}
/** An empty value stands for none of the others; the list has a word of its own for it. */
const none = '\u0000none'
const textOf = (content: unknown): string =>
  Array.isArray(content)
    ? content.map(textOf).join('')
    : isVNode(content)
      ? textOf(content.children)
      : typeof content === 'string' || typeof content === 'number'
        ? String(content)
        : ''

function itemsOf(nodes: readonly VNode[] = []): Item[] {
  return nodes.flatMap((node): Item[] => {
    if (node.type === Fragment) return itemsOf(node.children as VNode[])
    const props = (node.props ?? {}) as { value?: string | number; label?: string; disabled?: boolean | ''; hidden?: boolean | '' }
    if (node.type === 'optgroup') return [{ type: 'label', label: props.label ?? '' }, ...itemsOf(node.children as VNode[])]
    if (node.type !== 'option') return []
    const label = textOf(node.children).replace(/\s+/g, ' ').trim()
    const own = String(props.value ?? label)
    return [{ label, value: own || none, ...(props.disabled === undefined || props.disabled === false ? {} : { disabled: true }) }]
  })
}
/** The list as it was, where it says the same: then nothing is drawn anew. */
let kept: Item[] = []
function steady(items: Item[]): Item[] {
  if (!equal(items, kept)) kept = items
  return kept
}
function picked(found: unknown): void {
  const text = found === none ? '' : String(found)
  emit('pick', text)
  emit('update:modelValue', text)
}
</script>

<template>
  <USelect
    :model-value="String(modelValue ?? value ?? '') || none"
    :items="steady(itemsOf($slots.default?.()))"
    :size="size"
    :disabled="disabled"
    :placeholder="placeholder"
    :ui="{ content: 'min-w-fit max-w-80' }"
    @keydown.stop
    @update:model-value="picked"
  />
</template>
