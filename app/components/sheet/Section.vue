<script setup lang="ts">
/** One part of the settings of the selection; it folds. */
const { title, note = '', open = true } = defineProps<{ title: string; note?: string; open?: boolean }>()
</script>

<template>
  <details class="group border-b border-default" :open="open">
    <summary class="flex cursor-pointer items-center justify-between px-4 pb-1.5 pt-2.5 font-semibold text-muted">
      <span>{{ title }}</span><span class="truncate pl-3 font-normal">{{ note }}</span>
    </summary>
    <div class="space-y-2 px-4 pb-3"><slot /></div>
  </details>
</template>
