<script setup lang="ts">
import { canTotal, checked, columnValue, type TotalChoice, totalIn, totalKinds, totalPlaces, totalText } from '../../../core/compose/totals'
import { type TotalledAs, totalledAs } from '../../../core/formula/ratio'
import {
  setColumnCarry,
  setColumnWidth,
  setText,
  setTotal,
  setColumn,
  insertColumn,
  moveColumn,
  removeColumn,
  setTotalledAs,
  totalAt,
} from '../../../core/definition/edits/edits'

/** Title, width and totals of the selected column. */
const { report, sheet, definition, table, column } = useSheetSelection()
const on = (event: Event) => (event.target as HTMLInputElement).checked
const mm = (points: number) => Math.round((points / 72) * 254) / 10
const title = computed(() => (column.value && table.value!.rows.find(row => row.kind === 'titles')?.cells[column.value.id]?.text) || '')
const own = computed(() => column.value && columnValue(table.value!, column.value.id))
const scope = computed(() => ({ ...scopeOfBlock(definition.value, report.tree!.levels, table.value?.id ?? ''), row: 'line' as const }))
const typed = computed(() => own.value && checked(own.value.formula, scope.value))
const kinds = computed(() => totalKinds.filter(kind => typed.value && canTotal(typed.value, kind)))
const words: Record<(typeof totalKinds)[number], string> = {
  sum: t('columnSection.sum'),
  count: t('columnSection.count'),
  distinct: t('columnSection.differentValues'),
  average: t('columnSection.average'),
  min: t('columnSection.lowest'),
  max: t('columnSection.highest'),
  median: t('columnSection.median'),
  mode: t('columnSection.mostFrequent'),
  largest: t('columnSection.nThLargest'),
  smallest: t('columnSection.nThSmallest'),
  first: t('columnSection.first'),
  last: t('columnSection.last'),
  share: t('columnSection.shareOfAll'),
}
const places = computed(() =>
  column.value ? totalPlaces(table.value!).map(place => ({ ...place, text: totalAt(table.value!, column.value!.id, place) })) : [],
)
const present = computed(() => own.value && places.value.map(place => totalIn(place.text, own.value!.formula)).find(Boolean))
const choice = ref<TotalChoice>({ kind: 'sum' })
watch(
  [() => column.value?.id, present, kinds],
  () => (choice.value = present.value ?? { kind: kinds.value.includes('sum') ? 'sum' : 'count' }),
  { immediate: true },
)

function tick(place: (typeof places.value)[number], checkedNow: boolean): void {
  report.edit(t('columnSection.total'), now =>
    setTotal(now, table.value!.id, column.value!.id, place, checkedNow ? totalText(own.value!, choice.value) : ''),
  )
}
/** Another kind of total stands at once wherever there was one. */
function change(next: Partial<TotalChoice>): void {
  choice.value = { ...choice.value, ...next }
  const standing = places.value.filter(place => totalIn(place.text, own.value!.formula))
  if (standing.length)
    report.edit(t('columnSection.total'), now =>
      standing.reduce((sum, place) => setTotal(sum, table.value!.id, column.value!.id, place, totalText(own.value!, choice.value)), now),
    )
}
/** A quotient is totalled as its field says; the choice holds for every total of the field. */
const totalled = computed(() => {
  const { value: found } = typed
  return found?.is === 'field' && ['sum', 'average'].includes(choice.value.kind)
    ? { field: found.field, ...totalledAs(found.field) }
    : undefined
})
function setTotalled(as: TotalledAs): void {
  const { field } = totalled.value!
  report.edit(t('columnSection.howItIsTotalled'), now => setTotalledAs(now, report.tree!.levels[field.level]!.name, field.path, as))
}
const carries = computed(() => !!column.value && table.value!.rows.some(row => row.kind === 'forward' && row.cells[column.value!.id]))
/** Running totals, shares and ranks stand in the lines, in a column of their own beside this one. */
function beside(formula: string, heading: string, pattern = ''): void {
  const at = table.value!.columns.findIndex(each => each.id === column.value!.id) + 1
  report.edit(t('columnSection.insertColumn'), now =>
    insertColumn(now, table.value!.id, at, {
      title: heading,
      text: `{{ ${formula}${pattern ? ` | ${pattern}` : ''} }}`,
      width: 60,
      style: { align: 'right' },
    }),
  )
}
</script>

<template>
  <SheetSection v-if="table && column" :title="t('columnSection.thisColumn')" :note="column.id">
    <label v-if="table.rows.some(row => row.kind === 'titles')" class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('common.title') }}</span
      ><TextField
        class="w-40"
        :value="title"
        :aria-label="t('common.title')"
        @write="report.edit(t('common.title'), now => setText(now, { block: table!.id, cell: column!.id, part: 'titles' }, $event))"
    /></label>
    <div class="flex items-center justify-between gap-2">
      <span class="text-muted">{{ t('common.widthMm') }}</span><span class="flex items-center gap-1">
        <NumberField
          blank
          :least="6"
          class="w-16"
          :aria-label="t('columnSection.widthInMillimetres')"
          :value="column.width && !column.fit ? mm(column.width) : ''"
          :placeholder="column.fit ? t('columnSection.fitted') : t('columnSection.rest')"
          @write="report.edit(t('columnSection.columnWidth'), now => setColumnWidth(now, table!.id, column!.id, ($event * 72) / 25.4))"
        />
        <UTooltip :text="t('columnSection.asWideAsItsValues')"
          ><UButton
            size="xs"
            :variant="column.fit ? 'solid' : 'outline'"
            color="neutral"
            icon="i-lucide-fold-horizontal"
            :aria-label="t('columnSection.asWideAsItsValues')"
            :aria-pressed="!!column.fit"
            @click="report.edit(t('columnSection.columnWidth'), now => setColumn(now, table!.id, column!.id, { fit: !column!.fit }))"
        /></UTooltip>
        <UTooltip :text="t('columnSection.takesWhatIsLeft')"
          ><UButton
            size="xs"
            :variant="column.width === 0 && !column.fit ? 'solid' : 'outline'"
            color="neutral"
            icon="i-lucide-unfold-horizontal"
            :aria-label="t('columnSection.takesWhatIsLeft')"
            :aria-pressed="column.width === 0 && !column.fit"
            @click="report.edit(t('columnSection.columnWidth'), now => setColumnWidth(now, table!.id, column!.id, 0))"
        /></UTooltip>
      </span>
    </div>
    <fieldset v-if="own && kinds.length" class="space-y-1 rounded-md border border-default px-2.5 pb-2 pt-1" data-totals>
      <legend class="px-1 text-muted">{{ t('columnSection.total') }}</legend>
      <div class="flex gap-1.5">
        <PickField
          class="min-w-0 grow"
          :aria-label="t('columnSection.kindOfTotal')"
          :value="choice.kind"
          @pick="change({ kind: $event as 'sum' })"
        >
          <option v-for="kind in kinds" :key="kind" :value="kind">{{ words[kind] }}</option>
        </PickField>
        <NumberField
          v-if="choice.kind === 'largest' || choice.kind === 'smallest'"
          whole
          :least="1"
          class="w-14"
          :aria-label="t('common.whichOne')"
          :value="choice.count ?? 2"
          @write="change({ count: $event })"
        />
      </div>
      <TotalledChoice v-if="totalled?.other" :model-value="totalled.as" @update:model-value="setTotalled" />
      <label v-for="place in places" :key="place.kind + place.group" class="flex items-center gap-2"
        ><input type="checkbox" class="accent-petrol-700" :checked="!!totalIn(place.text, own.formula)" @change="tick(place, on($event))" />
        {{ t('columnSection.at', { label: place.label }) }}</label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="choice.over === 'report'"
          @change="change({ over: on($event) ? 'report' : undefined })"
        />
        {{ t('columnSection.ofTheWholeReportWherever') }}</label
      >
      <SheetRuleField
        :value="choice.where ?? ''"
        :scope="scope"
        :label="t('columnSection.onlyWhere')"
        :hint="t('columnSection.allRecords')"
        @set="change({ where: $event || undefined })"
      />
      <div v-if="kinds.includes('sum')" class="flex flex-wrap gap-1 pt-0.5">
        <UButton size="xs" variant="outline" color="neutral" @click="beside(`running(${own!.formula})`, 'Running', own!.pattern)">{{
          t('columnSection.runningTotal')
        }}</UButton>
        <UButton size="xs" variant="outline" color="neutral" @click="beside(`share(${own!.formula})`, 'Share')">{{
          t('columnSection.share')
        }}</UButton>
        <UButton size="xs" variant="outline" color="neutral" @click="beside(`rank(${own!.formula})`, 'Rank')">{{
          t('columnSection.rank')
        }}</UButton>
      </div>
    </fieldset>
    <label v-if="kinds.includes('sum')" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="carries"
        @change="report.edit(t('columnSection.carry'), now => setColumnCarry(now, table!.id, column!.id, on($event)))"
      />
      {{ t('columnSection.carryOverThePage') }}</label
    >
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!column.once"
        @change="report.edit(t('columnSection.repeatedValues'), now => setColumn(now, table!.id, column!.id, { once: on($event) }))"
      />
      {{ t('columnSection.printARepeatedValueOnce') }}</label
    >
    <div class="flex gap-1.5">
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-left"
        :aria-label="t('columnSection.moveColumnLeft')"
        @click="report.edit(t('columnSection.moveColumn'), now => moveColumn(now, table!.id, column!.id, -1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-right"
        :aria-label="t('columnSection.moveColumnRight')"
        @click="report.edit(t('columnSection.moveColumn'), now => moveColumn(now, table!.id, column!.id, 1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-eye-off"
        @click="
          () => {
            report.edit(t('columnSection.hideColumn'), now => setColumn(now, table!.id, column!.id, { hidden: true }))
            sheet.selection = undefined
          }
        "
        >{{ t('columnSection.hide') }}</UButton
      >
      <UButton
        size="xs"
        variant="outline"
        color="error"
        icon="i-lucide-trash-2"
        class="ml-auto"
        :disabled="table.columns.length === 1"
        @click="
          () => {
            report.edit(t('common.deleteColumn'), now => removeColumn(now, table!.id, column!.id))
            sheet.selection = undefined
          }
        "
        >{{ t('common.deleteColumn') }}</UButton
      >
    </div>
  </SheetSection>
</template>
