<script setup lang="ts">
import { setRowStyle, setRowWhen, addRow, duplicateRow, moveRow, removeRow } from '../../../core/definition/edits/edits'
import type { RowKind } from '../../../core/definition/blocks/table'

/** The selected row of a table: when it is printed, how it looks, its fellows. */
const { report, sheet, table, row, scope } = useSheetSelection()
const borders = ['', 'none', 'hair', 'thin', 'thick', 'double'] as const
const several = computed(() => table.value!.rows.filter(each => each.kind === 'line').length > 1)
function another(kind: RowKind): void {
  report.edit(t('rowSection.addRow'), now =>
    addRow(now, table.value!.id, {
      kind,
      cells: kind === 'line' ? { ...row.value!.cells } : {},
      ...(row.value!.group && kind === row.value!.kind ? { group: row.value!.group } : {}),
    }),
  )
}
</script>

<template>
  <SheetSection v-if="table && row" :title="t('rowSection.thisRow')" :note="row.id === row.kind ? partWords(row.kind) : row.id">
    <SheetRuleField
      :value="row.when ?? ''"
      :scope="scope"
      :label="row.kind === 'line' && several ? t('rowSection.usedForRecordsWhere') : t('rowSection.printWhen')"
      :hint="row.kind === 'line' && several ? t('rowSection.allOthers') : t('rowSection.always')"
      @set="report.edit(t('rowSection.ruleOfTheRow'), now => setRowWhen(now, table!.id, row!.id, $event))"
    />
    <SheetStyleFields
      :style="row.style ?? {}"
      :full="false"
      @set="report.edit(t('rowSection.lookOfTheRow'), now => setRowStyle(now, table!.id, row!.id, $event))"
    />
    <div class="flex items-center justify-between gap-2">
      <span class="shrink-0 text-muted" :title="t('rowSection.linesAboveAndBelowThe')">{{ t('common.lines') }}</span><span
        class="flex gap-1"
      >
        <PickField
          v-for="side in ['above', 'below'] as const"
          :key="side"
          class="w-[6.2rem]"
          :aria-label="t('rowSection.line', { side })"
          :value="row.style?.[side] ?? ''"
          @pick="report.edit(t('common.line'), now => setRowStyle(now, table!.id, row!.id, { [side]: $event || undefined }))"
        >
          <option v-for="each in borders" :key="each" :value="each">{{ each || t('rowSection.theme') }}</option>
        </PickField>
      </span>
    </div>
    <div class="flex flex-wrap gap-1">
      <UButton v-if="row.kind === 'line'" size="xs" variant="outline" color="neutral" @click="another('line')">{{
        t('rowSection.anotherLineRow')
      }}</UButton>
      <UButton v-if="row.kind === 'line'" size="xs" variant="outline" color="neutral" @click="another('extra')">{{
        t('rowSection.rowUnderIt')
      }}</UButton>
      <UButton
        v-if="row.kind !== 'line' && !row.nested && !row.report"
        size="xs"
        variant="outline"
        color="neutral"
        @click="report.edit(t('rowSection.duplicateRow'), now => duplicateRow(now, table!.id, row!.id))"
        >{{ t('rowSection.duplicate') }}</UButton
      >
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-up"
        :aria-label="t('rowSection.rowUp')"
        @click="report.edit(t('rowSection.moveRow'), now => moveRow(now, table!.id, row!.id, -1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-down"
        :aria-label="t('rowSection.rowDown')"
        @click="report.edit(t('rowSection.moveRow'), now => moveRow(now, table!.id, row!.id, 1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="error"
        icon="i-lucide-trash-2"
        class="ml-auto"
        @click="
          () => {
            report.edit(t('rowSection.deleteRow'), now => removeRow(now, table!.id, row!.id))
            sheet.selection = undefined
          }
        "
        >{{ t('rowSection.deleteRow') }}</UButton
      >
    </div>
  </SheetSection>
</template>
