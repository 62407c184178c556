<script setup lang="ts">
import type { Page } from '../../core/compose/page'

const { report, version } = defineProps<{ report: string; version: number }>()
const place = useTemplateRef('place')
const seen = ref(false)
const { stop } = useIntersectionObserver(
  place,
  ([entry]) => {
    if (!entry?.isIntersecting) return
    seen.value = true
    stop()
  },
  { rootMargin: '300px' },
)
const page = shallowRef<Page | null>()
const problem = ref('')
watch(
  () => [report, version, seen.value],
  async () => {
    if (!seen.value) return
    try {
      page.value = await api<Page | null>(`/api/reports/${report}/first-page`)
      problem.value = ''
    } catch (error) {
      problem.value = (error as Error).message
    }
  },
)
const zoom = computed(() => 150 / (page.value?.width ?? 595))
</script>

<template>
  <div
    ref="place"
    class="overflow-hidden bg-white"
    :style="{
      width: '150px',
      height: `${(page?.height ?? 842) * zoom}px`,
      boxShadow: '0 1px 3px rgb(60 45 25 / .25), 0 0 0 1px var(--paper-edge)',
    }"
  >
    <PageCanvas v-if="page" :page="page" :width="page.width" :height="page.height" :zoom="zoom" />
    <p v-else-if="problem" class="p-2 text-xs text-brick-700">{{ tell(problem) }}</p>
    <p v-else-if="page === null" class="p-2 text-xs text-stone-500">{{ t('miniature.noRecordsForTheUsual') }}</p>
  </div>
</template>
