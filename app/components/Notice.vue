<script setup lang="ts">
defineProps<{ text: string; kind?: 'error' | 'plain' }>()
</script>

<template>
  <div
    class="flex items-center gap-3 border-b px-4 py-2 text-sm"
    :class="
      kind === 'error'
        ? 'border-brick-200 bg-brick-50 text-brick-800 dark:border-brick-900 dark:bg-brick-950 dark:text-brick-200'
        : 'border-apricot-200 bg-apricot-50 text-apricot-800 dark:border-apricot-900 dark:bg-apricot-950 dark:text-apricot-200'
    "
    role="alert"
  >
    <UIcon name="i-lucide-circle-alert" class="size-4 shrink-0" />
    <span class="grow">{{ tell(text) }}</span>
    <slot />
  </div>
</template>
