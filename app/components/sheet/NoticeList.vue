<script setup lang="ts">
import { isPanel } from '../../../core/definition/blocks/panel'
import { isTable } from '../../../core/definition/blocks/table'
import * as edits from '../../../core/definition/edits/edits'
import { findBlock } from '../../../core/definition/edits/edits'
import type { LayoutNotice, Remedy } from '../../../core/compose/notices'
import type { LayoutProblem } from '../../../core/compose/prepared'
import type { ReportDefinition } from '../../../core/definition/report'

/** What the program remarks on the layout and its data, each with what can be done about it. */
const report = useReport()
const sheet = useSheet()
const emit = defineEmits<{ show: [page: number] }>()
const count = computed(() => sheet.problems.length + sheet.notices.length + (sheet.failed ? 1 : 0))
function apply(remedy: Remedy): void {
  const edit = edits[remedy.edit] as (definition: ReportDefinition, ...args: unknown[]) => ReportDefinition
  report.edit(tell(remedy.label), now => edit(now, ...remedy.args))
}
function toProblem(problem: LayoutProblem): void {
  const block = findBlock(report.definition!, problem.block)
  const row = isTable(block) ? block.rows.find(each => each.id === problem.row) : undefined
  sheet.selection = {
    block: problem.block,
    part: isPanel(block) && problem.cell ? 'item' : (row?.kind ?? 'block'),
    page: 0,
    row: -1,
    ...(row ? { rowId: row.id } : {}),
    ...(problem.cell && (row || isPanel(block)) ? { cell: problem.cell } : {}),
  }
}
function toNotice(notice: LayoutNotice): void {
  sheet.selection = {
    block: notice.block,
    part: notice.cell ? notice.part : 'block',
    page: notice.page ?? 0,
    row: -1,
    ...(notice.row ? { rowId: notice.row } : {}),
    ...(notice.cell ? { cell: notice.cell } : {}),
  }
  if (notice.page !== undefined) emit('show', notice.page)
}
</script>

<template>
  <section v-if="count" class="bg-apricot-50 px-4 py-3 dark:bg-apricot-950" data-notices aria-live="polite">
    <h3 class="pb-1 font-semibold text-apricot-700 dark:text-apricot-300">{{ count }} {{ t('noticeList.noticeNotices', count) }}</h3>
    <p v-if="sheet.failed">{{ sheet.failed }}</p>
    <button
      v-for="problem in sheet.problems"
      :key="problem.block + problem.row + problem.cell + problem.sentence"
      class="block py-0.5 text-left hover:underline"
      @click="toProblem(problem)"
    >
      {{ tell(problem.sentence) }}
    </button>
    <div
      v-for="notice in sheet.notices"
      :key="notice.kind + notice.block + notice.row + notice.cell + notice.sentence"
      class="py-0.5"
      :data-notice="notice.kind"
    >
      <button class="block text-left hover:underline" @click="toNotice(notice)">{{ tell(notice.sentence) }}</button>
      <span class="flex flex-wrap gap-1 pt-0.5"
        ><UButton
          v-for="remedy in notice.remedies"
          :key="remedy.label"
          size="xs"
          variant="outline"
          color="neutral"
          @click="apply(remedy)"
          >{{ tell(remedy.label) }}</UButton
        ></span
      >
    </div>
  </section>
</template>
