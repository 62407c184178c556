<script setup lang="ts">
import { isNested } from '../../../core/definition/blocks/nested'
import { findBlock } from '../../../core/definition/walk'

/** A nested report as the data sees it: what answers its parameters, and the statements that read it for all records at once. */
const { block } = defineProps<{ block: string }>()
const report = useReport()
const own = computed(() => {
  const found = findBlock(report.definition!, block)
  return isNested(found) ? found : undefined
})
const read = computed(() => report.rows?.records.nested?.get(block))
const counts = computed(() => {
  const roots = read.value?.parts.reduce((sum, part) => sum + part.levels[0]!.count, 0) ?? 0
  return { answers: read.value?.sets.size ?? 0, roots }
})
</script>

<template>
  <DataSidePanel v-if="own" :title="own.name">
    <p class="text-sm text-muted">
      {{ t('nestedPanel.aReportOfTheLibrary') }}
    </p>
    <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-square-arrow-out-up-right" :to="`/reports/${own.report}/data`">{{
      t('nestedPanel.openIt')
    }}</UButton>
    <dl v-if="own.feeds.length" class="space-y-1 text-sm">
      <div v-for="each in own.feeds" :key="each.parameter" class="flex gap-2">
        <dt class="w-28 shrink-0 truncate text-muted">{{ each.parameter }}</dt>
        <dd class="min-w-0 font-mono text-xs">{{ each.formula }}</dd>
      </div>
    </dl>
    <p v-if="read" class="text-sm">
      {{
        t('nestedPanel.for', {
          roots: grouped(counts.roots),
          what: t('common.rowRows', counts.roots),
          answers: grouped(counts.answers),
          what2: t('nestedPanel.answerDifferentAnswers', counts.answers),
        })
      }}
      <template v-if="read.left">{{ t('nestedPanel.moreWereNotRead', { left: grouped(read.left) }) }}</template>
    </p>
    <p v-if="read?.said" class="text-sm text-error">{{ read.said }}</p>
    <pre
      v-for="(statement, at) in read?.statements ?? []"
      :key="at"
      class="overflow-x-auto whitespace-pre-wrap rounded-md border border-default p-2 font-mono text-xs"
      >{{ statement }}</pre>
  </DataSidePanel>
</template>
