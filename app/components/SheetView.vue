<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import type { Page } from '../../core/compose/page'

/** Pages one under the other, or several side by side; only those in view exist. */
const {
  count,
  pages,
  width,
  height,
  zoom,
  gutter = 0,
  side = false,
} = defineProps<{
  count: number
  pages: ReadonlyMap<number, Page>
  width: number
  height: number
  zoom: number
  /** room at the left of each page, in pixels */ gutter?: number
  side?: boolean
}>()
const emit = defineEmits<{ range: [from: number, to: number, view: number] }>()
const scroller = useTemplateRef('scroller')
const { width: room } = useElementSize(scroller)
const gap = 22
/** pages in a row */
const across = computed(() => (side ? Math.max(2, Math.floor((room.value - 20) / (width * zoom + gutter + gap))) : 1))
const rows = computed(() => Math.ceil(count / across.value))

const virtualizer = useVirtualizer(
  computed(() => ({
    count: rows.value,
    getScrollElement: () => scroller.value,
    estimateSize: () => height * zoom + gap,
    overscan: 1,
    paddingStart: 18,
    paddingEnd: 18,
  })),
)
const items = computed(() => virtualizer.value.getVirtualItems())
const shown = computed(() =>
  items.value
    .flatMap(item =>
      Array.from({ length: across.value }, (_, place) => ({
        index: item.index * across.value + place,
        top: item.start,
        left: gutter + place * (width * zoom + gutter + gap),
      })),
    )
    .filter(each => each.index < count),
)
watch([() => height * zoom, rows], () => virtualizer.value.measure())
/** the first page of which something is seen */
const first = computed(() => (items.value.find(item => item.end > (virtualizer.value.scrollOffset ?? 0) + 40)?.index ?? 0) * across.value)
watch(
  () => [shown.value[0]?.index ?? 0, (shown.value.at(-1)?.index ?? 0) + 1, first.value] as const,
  ([from, to, view], old) => {
    if (!old || from !== old[0] || to !== old[1] || view !== old[2]) emit('range', from, to, view)
  },
  { immediate: true },
)

/** The page in the middle of the view. */
const current = computed(() => {
  const middle = (virtualizer.value.scrollOffset ?? 0) + (scroller.value?.clientHeight ?? 0) / 2
  return (items.value.find(item => item.start <= middle && item.end > middle)?.index ?? 0) * across.value
})

defineExpose({
  current,
  width: room,
  scrollTo: (page: number) => virtualizer.value.scrollToIndex(Math.floor(page / across.value), { align: 'start' }),
})
</script>

<template>
  <div ref="scroller" class="desk h-full overflow-auto" tabindex="0" role="region" :aria-label="t('sheetView.pagesToBeScrolled')">
    <div
      class="relative mx-auto"
      :style="{
        height: `${virtualizer.getTotalSize()}px`,
        width: `${(width * zoom + gutter) * across + gap * (across - 1) + gutter}px`,
        minWidth: 'fit-content',
      }"
    >
      <div v-for="item in shown" :key="item.index" class="absolute" :style="{ top: `${item.top}px`, left: `${item.left}px` }">
        <div class="relative" :data-page="item.index" :style="{ boxShadow: '0 1px 2px rgb(60 45 25 / .16), 0 0 0 1px var(--paper-edge)' }">
          <PageCanvas :page="pages.get(item.index)" :width="width" :height="height" :zoom="zoom" />
          <slot :page="pages.get(item.index)" :index="item.index" />
        </div>
      </div>
    </div>
  </div>
</template>
