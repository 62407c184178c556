<script setup lang="ts">
/** The frame of what stands at the right of the rows. */
const { title, level } = defineProps<{ title: string; level?: number }>()
const data = useData()
</script>

<template>
  <aside
    class="bar flex w-[372px] shrink-0 flex-col border-l border-default"
    :aria-label="title"
    :style="level === undefined ? {} : { '--level': levelColour(level) }"
    @keydown.esc="data.panel = undefined"
  >
    <header class="flex items-center gap-2 px-4 pb-2 pt-3">
      <span v-if="level !== undefined" class="level-mark" />
      <h2 class="truncate font-display text-base font-semibold">{{ title }}</h2>
      <UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :aria-label="t('common.close')"
        class="ml-auto"
        @click="data.panel = undefined"
      />
    </header>
    <div class="grow space-y-3 overflow-auto px-4 pb-4"><slot /></div>
    <footer v-if="$slots.footer" class="flex items-center gap-2 border-t border-default px-4 py-2.5"><slot name="footer" /></footer>
  </aside>
</template>
