<script setup lang="ts">
import { textParts } from '../../../core/value/textParts'

/** What stands under the sheet: the level and formula of what is selected, the zoom, and the page in view. */
const { current } = defineProps<{ current: number }>()
const emit = defineEmits<{ show: [page: number] }>()
const zoom = defineModel<number>('zoom', { required: true })
const tracing = defineModel<boolean>('tracing', { required: true })
const { report, sheet, selection, text, statement } = useSheetSelection()

const level = computed(() =>
  selection.value && report.tree
    ? report.tree.levels[levelOfBlock(report.definition!, report.tree.levels, selection.value.block)]
    : undefined,
)
const formulas = computed(() =>
  text.value === undefined
    ? ''
    : statement.value && selection.value?.cell !== 'caption'
      ? text.value
      : textParts(text.value)
          .flatMap(part => ('formula' in part ? [part.formula] : []))
          .join('   ·   ') || `“${text.value}”`,
)
/** How many records stand behind the selected figure, and what they add up to. */
const behind = computed(() => {
  const first = sheet.traced?.[0]
  return first && t('footer.behindIt', { counted: counted(first.count, first.caption) })
})
const page = computed(() => sheet.pages.get(current))
const rootCaption = computed(() => report.tree?.levels[0]?.caption.toLowerCase() ?? '')
const rootCount = computed(() => report.rows?.records.levels[0]?.count ?? 0)
/** Rule 23: figures over all records stand on the pinned ones only, as long as these are not all. */
const sample = computed(() => (sheet.needsAll && report.rows && report.rows.total === undefined ? t('footer.totalsOfThePinnedRows') : ''))
const step = (by: number) => emit('show', Math.min(sheet.count - 1, Math.max(0, current + by)))
const zoomBy = (factor: number) => (zoom.value = Math.round(Math.min(3, Math.max(0.3, zoom.value * factor)) * 100) / 100)
</script>

<template>
  <footer
    class="bar flex h-11 shrink-0 items-center gap-3 border-t border-default px-4 text-sm"
    :style="level ? { '--level': levelColour(level.index) } : {}"
  >
    <template v-if="level"
      ><span class="level-mark" /><span class="font-semibold">{{ level.caption }}</span
      ><code class="truncate font-mono text-xs" data-formula>{{ formulas }}</code>
      <UButton
        v-if="selection?.cell"
        size="xs"
        variant="outline"
        color="neutral"
        class="shrink-0"
        :aria-expanded="tracing"
        @click="tracing = !tracing"
        >{{ behind ?? t('common.trace') }}</UButton
      >
    </template>
    <span v-else class="truncate text-muted">{{ t('footer.clickACellToSelect') }}</span>
    <span class="ml-auto flex shrink-0 items-center gap-1 text-muted">
      <UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-zoom-out"
        :aria-label="t('footer.smaller')"
        @click="zoomBy(1 / 1.15)"
      />{{ Math.round((zoom / (96 / 72)) * 100) }} %<UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-zoom-in"
        :aria-label="t('footer.larger')"
        @click="zoomBy(1.15)"
      />
      <span class="pl-3" data-page-count
        ><span v-if="sample" class="text-apricot-700 dark:text-apricot-300" :title="t('footer.aFullRunReadsThem')">{{ sample }} · </span
        ><template v-if="(page?.record ?? -1) >= 0">{{ t('footer.of', { rootCaption, what: page!.record + 1, rootCount }) }}</template
        ><template v-else>{{ counted(rootCount, rootCaption) }}</template>
        {{ t('footer.pageOf', { what: current + 1, what2: sheet.total ?? '…' }) }}</span
      >
      <UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-chevron-left"
        :aria-label="t('footer.pageBefore')"
        @click="step(-1)"
      /><UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-chevron-right"
        :aria-label="t('footer.nextPage')"
        @click="step(1)"
      />
    </span>
  </footer>
</template>
