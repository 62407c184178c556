<script setup lang="ts">
import type { Command } from '../../stores/commands'

/** Commands as a menu, in their groups. What can be done is only worked out when the menu opens: edits leave it alone. */
const { commands } = defineProps<{ commands: () => readonly Command[]; label: string; icon: string; text?: string; outline?: boolean }>()
const open = defineModel<boolean>('open', { default: false })
const items = computed(() => {
  if (!open.value) return []
  const list = commands()
  return [...new Set(list.map(each => each.group))].map(name => [
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
})
</script>

<template>
  <UDropdownMenu v-model:open="open" :items="items" :content="{ align: 'start' }" :ui="{ content: 'max-h-96' }"
    ><UButton
      size="sm"
      :variant="outline ? 'outline' : 'ghost'"
      color="neutral"
      :icon="icon"
      trailing-icon="i-lucide-chevron-down"
      v-bind="text ? { label: text } : { 'aria-label': label, title: label }"
  /></UDropdownMenu>
</template>
