<script setup lang="ts">
import { setCell, setStyle } from '../../../core/definition/edits/edits'
import type { TextStyle } from '../../../core/definition/style'

/** Text, format and look of the selected cell or text. */
const { report, selection, block, table, row, column, item, text, scope, style, write } = useSheetSelection()
const cell = computed(() => (row.value && column.value ? row.value.cells[column.value.id] : undefined))
const wide = ref(false)
const most = computed(() => (table.value && column.value ? table.value.columns.length - table.value.columns.indexOf(column.value) : 1))
/** A look set at a cell holds for its column, where the cell stands in the lines; else for the cell alone. */
const whole = computed(() => !!column.value && row.value?.kind === 'line' && !wide.value)
function restyle(change: Partial<TextStyle>): void {
  const cells = [selection.value!.cell!, ...(selection.value!.more ?? [])]
  report.edit(t('cellSection.style'), now =>
    cells.reduce((sum, each) => setStyle(sum, block.value!.id, each, change, whole.value ? undefined : row.value?.id), now),
  )
}
</script>

<template>
  <SheetSection
    v-if="selection?.cell && text !== undefined"
    :title="
      selection.more?.length
        ? t('cellSection.these', { what: selection.more.length + 1 })
        : item?.kind === 'code'
          ? t('cellSection.thisCode')
          : t('cellSection.thisCell')
    "
    :note="partWords(selection.part)"
  >
    <label v-if="!selection.more?.length" class="block"
      ><span class="text-muted">{{ t('common.text2') }}</span
      ><TextField mono :value="text" rows="2" class="mt-0.5 w-full" :aria-label="t('common.text2')" @write="write($event)" />
    </label>
    <SheetFormatField v-if="!selection.more?.length" />
    <SheetStyleFields v-if="item?.kind !== 'code'" :style="style" marks @set="restyle" />
    <template v-if="row && column">
      <label v-if="row.kind === 'line'" class="flex items-center gap-2"
        ><input v-model="wide" type="checkbox" class="accent-petrol-700" /> {{ t('cellSection.lookOfThisRowS') }}</label
      >
      <label v-if="most > 1 && !selection.more?.length" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('cellSection.spansColumns') }}</span
        ><NumberField
          whole
          :least="1"
          :most="most"
          class="w-16"
          :aria-label="t('cellSection.spansColumns')"
          :value="cell?.span ?? 1"
          @write="report.edit(t('cellSection.span'), now => setCell(now, table!.id, row!.id, column!.id, { span: $event }))"
      /></label>
      <SheetRuleField
        v-if="!selection.more?.length"
        :value="cell?.picture ?? ''"
        :scope="scope"
        :test="false"
        :label="t('cellSection.pictureBeforeItByA')"
        :hint="t('common.none')"
        @set="
          report.edit(t('cellSection.picture'), now =>
            setCell(now, table!.id, row!.id, column!.id, {
              picture: $event || undefined,
              pictureHeight: $event ? (cell?.pictureHeight ?? 24) : undefined,
            }),
          )
        "
      />
      <SheetRuleField
        v-if="!selection.more?.length"
        :value="cell?.when ?? ''"
        :scope="scope"
        :label="t('cellSection.showThisCellWhen')"
        @set="
          report.edit(t('cellSection.ruleOfTheCell'), now => setCell(now, table!.id, row!.id, column!.id, { when: $event || undefined }))
        "
      />
    </template>
  </SheetSection>
</template>
