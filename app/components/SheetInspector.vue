<script setup lang="ts">
import { isNested } from '../../core/definition/blocks/nested'

/** Settings of what is selected, from the inside out, and what the program has noticed. */
const sheet = useSheet()
const emit = defineEmits<{ show: [page: number] }>()
const { table, statement, chart, crosstab, block } = useSheetSelection()
</script>

<template>
  <aside
    class="bar w-[272px] shrink-0 overflow-auto border-l border-default text-sm"
    :aria-label="t('sheetInspector.settingsOfTheSelection')"
  >
    <SheetNoticeList @show="emit('show', $event)" />
    <template v-if="statement"><SheetStatementLine /><SheetStatementColumn /><SheetStatementSection /></template>
    <SheetChartSection v-else-if="chart" />
    <SheetCrosstabSection v-else-if="crosstab" />
    <SheetNestedSection v-else-if="isNested(block)" />
    <SheetCellSection v-else />
    <SheetItemSection />
    <SheetColumnSection v-if="sheet.selection?.cell && !statement && !crosstab" />
    <SheetRowSection />
    <SheetGroupSection v-if="table" />
    <SheetLookSection v-if="table" />
    <SheetBlockSection />
    <SheetEinvoiceSection />
    <SheetPaymentsSection />
    <SheetPageSection />
    <SheetLanguageSection />
    <SheetHandsOutSection />
  </aside>
</template>
