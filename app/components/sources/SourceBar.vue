<script setup lang="ts">
import type { Catalog } from '../../../core/books/catalog'

/** The sources that there are, each with its state; and what can be done with the one at hand. */
const { catalog = undefined, books } = defineProps<{ catalog?: Catalog | undefined; books: boolean }>()
const emit = defineEmits<{ pick: [id: string]; books: []; leave: []; again: [] }>()
const sources = useSources()

const words = computed(() => {
  const { current } = sources
  const periods = catalog?.calendar?.periods
  return [
    ...(catalog ? [`${catalog.tables.length} ${catalog.tables.length === 1 ? 'table' : 'tables'}`] : []),
    ...(current?.from ? [`from ${current.from}`] : []),
    ...(current?.asOf ? [`rows as of ${momentWords(current.asOf)}`] : []),
    ...(periods?.length ? [`fiscal years ${periods[0]!.year} to ${periods.at(-1)!.year}`] : []),
  ].join(' · ')
})
</script>

<template>
  <div class="flex shrink-0 items-center gap-3 border-b border-default px-4 py-1.5" data-sources>
    <nav class="flex min-w-0 gap-1 overflow-x-auto" aria-label="Sources">
      <button
        v-for="source in sources.list"
        :key="source.id"
        class="flex shrink-0 items-center gap-2 rounded-md px-2.5 py-1 text-sm font-medium"
        :class="source.id === sources.current?.id ? 'bg-elevated text-highlighted' : 'text-muted hover:bg-elevated/60'"
        :aria-current="source.id === sources.current?.id ? 'true' : undefined"
        :title="source.away ? `Away since ${momentWords(source.away.since)}. ${source.away.why}` : undefined"
        @click="emit('pick', source.id)"
      >
        <span
          class="size-2 rounded-full"
          :class="source.away ? 'bg-error' : 'bg-petrol-600 dark:bg-petrol-300'"
          role="img"
          :aria-label="source.away ? 'away' : 'there'"
        />{{ source.name }}
      </button>
    </nav>
    <span class="min-w-0 grow truncate text-sm text-muted" :title="words">{{ words }}</span>
    <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-book-open" :aria-pressed="books" @click="emit('books')"
      >The books</UButton
    >
    <UButton
      size="xs"
      variant="outline"
      color="neutral"
      icon="i-lucide-refresh-cw"
      aria-label="Read the tables again"
      title="Read the tables again"
      @click="emit('again')"
    />
    <UButton
      v-if="sources.current && sources.current.kind !== 'demo'"
      size="xs"
      variant="outline"
      color="neutral"
      icon="i-lucide-trash-2"
      aria-label="Put this source away"
      title="Put this source away"
      @click="emit('leave')"
    />
  </div>
</template>
