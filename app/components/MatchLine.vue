<script setup lang="ts">
import type { Sureness } from '../../core/swap/match'

/** A table or column of a report beside what it is called in another source: to be chosen, with how sure a proposal is and why. */
const {
  match,
  choices,
  what,
  label,
  disabled = false,
} = defineProps<{
  match: { to?: string; sure: Sureness; why: string[] }
  choices: readonly { name: string }[]
  what: 'table' | 'column'
  label: string
  disabled?: boolean
}>()
const emit = defineEmits<{ choose: [name: string] }>()
/** a choice of the list cannot be an empty text */
const none = '\u0000none'
const items = computed(() => [
  { label: t('matchLine.leftOut'), value: none },
  ...choices.map(each => ({ label: each.name, value: each.name })),
])
const words = { sure: t('matchLine.sure'), likely: t('matchLine.likely'), unsure: t('matchLine.lookAtIt') } as const
const tone = { sure: 'success', likely: 'info', unsure: 'warning' } as const
</script>

<template>
  <UIcon name="i-lucide-arrow-right" class="size-4 shrink-0 text-dimmed" />
  <USelectMenu
    :model-value="match.to ?? none"
    :items="items"
    value-key="value"
    :size="what === 'table' ? 'sm' : 'xs'"
    class="w-60 shrink-0"
    :disabled="disabled"
    :search-input="{ placeholder: t('matchLine.findA', { what }) }"
    :aria-label="label"
    @update:model-value="emit('choose', $event === none ? '' : String($event))"
  />
  <UBadge size="sm" variant="subtle" :color="match.to ? tone[match.sure] : 'error'">{{
    match.to ? words[match.sure] : t('matchLine.noMatch')
  }}</UBadge>
  <span class="min-w-0 truncate text-sm text-muted" :title="match.why.map(tell).join(' · ')">{{ match.why.map(tell).join(' · ') }}</span>
</template>
