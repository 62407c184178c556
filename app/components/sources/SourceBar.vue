<script setup lang="ts">
import type { CopyState } from '../../../core/api/intake'
import type { Catalog } from '../../../core/books/catalog'

/** The sources that there are, each with its state; and what can be done with the one at hand. */
const { catalog = undefined, books } = defineProps<{ catalog?: Catalog | undefined; books: boolean }>()
const emit = defineEmits<{ pick: [id: string]; books: []; leave: []; again: []; problem: [text: string]; renewed: [] }>()
const sources = useSources()

/** Of a copy: which generations there are, and whether another is being made. */
const copy = shallowRef<CopyState>()
const copying = ref(false)
const isCopy = computed(() => sources.current?.kind === 'copy')
async function readCopy(): Promise<void> {
  copy.value = undefined
  if (!isCopy.value) return
  try {
    copy.value = await api<CopyState>(sources.path('copy'))
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
watch(() => sources.current?.id, readCopy, { immediate: true })
/** reports would break: it is put in place only if somebody wants it all the same */
const lacking = ref(false)
async function renew(more: { generation?: number; evenSo?: boolean } = {}): Promise<void> {
  copying.value = true
  lacking.value = false
  const asking = setInterval(async () => {
    copy.value = await api<CopyState>(sources.path('copy')).catch(() => copy.value)
  }, 700)
  try {
    copy.value = await api<CopyState>(sources.path('copy'), { method: 'POST', body: more })
    await sources.load()
    emit('renewed')
  } catch (error) {
    emit('problem', (error as Error).message)
    lacking.value = (error as Error).message.includes('refresh all the same')
    await readCopy()
  } finally {
    clearInterval(asking)
    copying.value = false
  }
}
const generations = computed(() =>
  (copy.value?.generations ?? []).map(each => ({
    label: `${momentWords(each.at)} · ${each.rows.toLocaleString('en')} ${each.rows === 1 ? 'row' : 'rows'}`,
    icon: each.number === copy.value!.generation ? 'i-lucide-check' : 'i-lucide-history',
    disabled: each.number === copy.value!.generation || copying.value,
    onSelect: () => void renew({ generation: each.number }),
  })),
)

const words = computed(() => {
  const { current } = sources
  const periods = catalog?.calendar?.periods
  return [
    ...(catalog ? [`${catalog.tables.length} ${catalog.tables.length === 1 ? 'table' : 'tables'}`] : []),
    ...(current?.from ? [`from ${current.from}`] : []),
    ...(current?.asOf ? [`rows as of ${momentWords(current.asOf)}`] : []),
    ...(copy.value ? [`generation ${copy.value.generation}`] : []),
    ...(copy.value?.running ? [`${copy.value.running.rows.toLocaleString('en')} rows copied so far`] : []),
    ...(copy.value?.failed ? [`the refresh of ${momentWords(copy.value.failed.at)} failed: ${copy.value.failed.why}`] : []),
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
    <template v-if="isCopy">
      <UButton size="xs" icon="i-lucide-refresh-ccw-dot" :loading="copying" @click="renew()">{{
        copying ? 'Refreshing …' : 'Refresh'
      }}</UButton>
      <UButton v-if="lacking" size="xs" color="error" variant="outline" :loading="copying" @click="renew({ evenSo: true })"
        >Refresh all the same</UButton
      >
      <UDropdownMenu :items="generations"
        ><UButton size="xs" variant="outline" color="neutral" icon="i-lucide-history" :disabled="!generations.length"
          >Go back</UButton
        ></UDropdownMenu
      >
    </template>
    <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-book-open" :aria-pressed="books" @click="emit('books')"
      >The books</UButton
    >
    <UButton
      v-if="!isCopy && sources.current?.kind !== 'files'"
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
