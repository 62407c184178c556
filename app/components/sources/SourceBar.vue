<script setup lang="ts">
import type { CopyState } from '../../../core/api/intake'
import type { Catalog } from '../../../core/books/catalog'

/** The sources that there are, each with its state; and what can be done with the one at hand. */
const { catalog = undefined, books } = defineProps<{ catalog?: Catalog | undefined; books: boolean }>()
const emit = defineEmits<{
  pick: [id: string]
  books: []
  leave: []
  again: []
  edit: []
  files: []
  problem: [text: string]
  renewed: []
}>()
const sources = useSources()
const me = useMe()

/** Of a copy: which generations there are, and whether another is being made. */
const copy = shallowRef<CopyState>()
const copying = ref(false)
const isCopy = computed(() => sources.current?.kind === 'copy')
const isFiles = computed(() => sources.current?.kind === 'files')
const isKept = computed(() => isCopy.value || isFiles.value)
async function readCopy(): Promise<void> {
  copy.value = undefined
  if (!isKept.value) return
  try {
    copy.value = await api<CopyState>(sources.path('copy'))
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
watch(() => [sources.current?.id, sources.current?.asOf], readCopy, { immediate: true })
const stop = shallowRef<AbortController>()
onBeforeUnmount(() => stop.value?.abort())
/** reports would break: it is put in place only if somebody wants it all the same */
const lacking = ref(false)
async function renew(more: { generation?: number; evenSo?: boolean } = {}): Promise<void> {
  copying.value = true
  lacking.value = false
  const asking = setInterval(async () => {
    copy.value = await api<CopyState>(sources.path('copy')).catch(() => copy.value)
  }, 700)
  try {
    stop.value = new AbortController()
    copy.value = await api<CopyState>(sources.path('copy'), { method: 'POST', body: more, signal: stop.value.signal })
    await sources.load()
    emit('renewed')
  } catch (error) {
    const sentence = stop.value?.signal.aborted ? t('sourceBar.theRefreshWasStoppedAll') : (error as Error).message
    lacking.value = sentence.includes('refresh all the same')
    await readCopy()
    // what is kept of a refresh that failed is said by itself
    if (copy.value?.failed?.why !== sentence) emit('problem', sentence)
  } finally {
    clearInterval(asking)
    copying.value = false
  }
}
const generations = computed(() =>
  (copy.value?.generations ?? []).map(each => ({
    label: [
      momentWords(each.at),
      ...(each.rows ? [`${grouped(each.rows)} ${t('common.rowRows', each.rows)}`] : []),
      ...(each.bytes ? [sizeWords(each.bytes)] : []),
    ].join(' · '),
    icon: each.number === copy.value!.generation ? 'i-lucide-check' : 'i-lucide-history',
    disabled: each.number === copy.value!.generation || copying.value,
    onSelect: () => void renew({ generation: each.number }),
  })),
)

const size = computed(() => copy.value?.generations.find(each => each.number === copy.value!.generation)?.bytes)
/** What failed since the rows that are shown, and what is advised. */
const failure = computed(() => {
  const { failed } = copy.value ?? {}
  const words = isFiles.value ? t('sourceBar.takingFilesInAgainFailed') : t('sourceBar.theRefreshFailed')
  return failed ? t('sourceBar.at', { words, momentWords: momentWords(failed.at), why: tell(failed.why) }) : ''
})

/** The settings of a source go into a file, and come from one. */
const chooser = useTemplateRef('chooser')
async function exportSettings(): Promise<void> {
  try {
    const { value } = await sources.settings()
    saveText(`${sources.current!.name} settings.json`, `${JSON.stringify(value, null, 2)}\n`)
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
async function importSettings(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  input.value = ''
  if (!file) return
  try {
    const found = readSettingsText(await file.text(), file.name)
    await sources.changeSettings(() => found)
    emit('again')
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
const more = computed(() => {
  const own = sources.current && sources.current.kind !== 'demo'
  return [
    [
      ...(own ? [{ label: t('sourceBar.nameAndConnection'), icon: 'i-lucide-pencil', onSelect: () => emit('edit') }] : []),
      ...(me.administrator && me.people
        ? [{ label: t('sourceBar.guardsWhoSeesWhat'), icon: 'i-lucide-shield-check', onSelect: () => void navigateTo('/guards') }]
        : []),
      ...(isKept.value ? [] : [{ label: t('sourceBar.readTheTablesAgain'), icon: 'i-lucide-refresh-cw', onSelect: () => emit('again') }]),
    ],
    [
      { label: t('sourceBar.exportItsSettings'), icon: 'i-lucide-download', onSelect: () => void exportSettings() },
      { label: t('sourceBar.takeSettingsIn'), icon: 'i-lucide-upload', onSelect: () => chooser.value?.click() },
    ],
    ...(own ? [[{ label: t('sourceBar.putThisSourceAway'), icon: 'i-lucide-trash-2', onSelect: () => emit('leave') }]] : []),
  ]
})

const words = computed(() => {
  const { current } = sources
  const periods = catalog?.calendar?.periods
  return [
    ...(catalog ? [`${catalog.tables.length} ${t('common.tableTables', catalog.tables.length)}`] : []),
    ...(current?.from ? [t('sourceBar.from', { from: current.from })] : []),
    ...(current?.asOf ? [t('sourceBar.rowsAsOf', { momentWords: momentWords(current.asOf) })] : []),
    ...(copy.value ? [t('sourceBar.generation', { generation: copy.value.generation })] : []),
    ...(size.value ? [t('sourceBar.onDisk', { sizeWords: sizeWords(size.value) })] : []),
    ...(copy.value?.running ? [t('sourceBar.rowsCopiedSoFar', { rows: grouped(copy.value.running.rows) })] : []),
    ...(periods?.length ? [t('sourceBar.fiscalYearsTo', { year: periods[0]!.year, year2: periods.at(-1)!.year })] : []),
  ].join(' · ')
})
</script>

<template>
  <div class="shrink-0 border-b border-default">
    <div class="flex items-center gap-3 px-4 py-1.5" data-sources>
      <nav class="flex min-w-0 gap-1 overflow-x-auto" :aria-label="t('common.sources')">
        <button
          v-for="source in sources.list"
          :key="source.id"
          class="flex shrink-0 items-center gap-2 rounded-md px-2.5 py-1 text-sm font-medium"
          :class="source.id === sources.current?.id ? 'bg-elevated text-highlighted' : 'text-muted hover:bg-elevated/60'"
          :aria-current="source.id === sources.current?.id ? 'true' : undefined"
          :title="
            source.away ? t('sourceBar.awaySince', { momentWords: momentWords(source.away.since), why: tell(source.away.why) }) : undefined
          "
          @click="emit('pick', source.id)"
        >
          <span
            class="size-2 rounded-full"
            :class="source.away ? 'bg-error' : 'bg-petrol-600 dark:bg-petrol-300'"
            role="img"
            :aria-label="source.away ? t('sourceBar.away') : t('sourceBar.there')"
          />{{ source.name }}
        </button>
      </nav>
      <span class="min-w-0 grow truncate text-sm text-muted" :title="words">{{ words }}</span>
      <template v-if="isCopy">
        <UButton size="xs" icon="i-lucide-refresh-ccw-dot" :loading="copying" @click="renew()">{{
          copying ? t('sourceBar.refreshing') : t('sourceBar.refresh')
        }}</UButton>
        <UButton v-if="copying" size="xs" variant="outline" color="neutral" @click="stop?.abort()">{{ t('common.stop') }}</UButton>
        <UButton v-if="lacking" size="xs" color="error" variant="outline" :loading="copying" @click="renew({ evenSo: true })">{{
          t('sourceBar.refreshAllTheSame')
        }}</UButton>
      </template>
      <UButton v-if="isFiles" size="xs" icon="i-lucide-file-input" @click="emit('files')">{{ t('sourceBar.bringFilesAgain') }}</UButton>
      <UDropdownMenu v-if="isKept" :items="generations"
        ><UButton size="xs" variant="outline" color="neutral" icon="i-lucide-history" :disabled="generations.length < 2">{{
          t('sourceBar.goBack')
        }}</UButton></UDropdownMenu
      >
      <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-book-open" :aria-pressed="books" @click="emit('books')">{{
        t('common.theBooks')
      }}</UButton>
      <UDropdownMenu :items="more"
        ><UButton
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-ellipsis"
          :aria-label="t('sourceBar.moreOfThisSource')"
          :title="t('sourceBar.moreOfThisSource')"
      /></UDropdownMenu>
      <input
        ref="chooser"
        type="file"
        accept=".json"
        class="hidden"
        :aria-label="t('sourceBar.settingsOfASource')"
        @change="importSettings"
      />
    </div>
    <Notice v-if="failure" :text="failure" kind="error" />
    <Notice v-else-if="copy?.advice" :text="copy.advice" />
  </div>
</template>
