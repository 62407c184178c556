<script setup lang="ts">
import { isBreak } from '../../../core/definition/blocks/break'
import { isPanel } from '../../../core/definition/blocks/panel'
import { isRepeat } from '../../../core/definition/blocks/block'
import { isTable } from '../../../core/definition/blocks/table'
import { isTies } from '../../../core/definition/blocks/ties'
import { changeBlock } from '../../../core/definition/edits/layout'
import {
  duplicateBlock,
  setColumn,
  removeBlock,
  setAfter,
  setAtBottom,
  setRepeat,
  setShowWhen,
  setTable,
  shiftBlock,
  tickRow,
  unwrapRepeat,
  wrapInRepeat,
} from '../../../core/definition/edits/edits'

/** The selected block as a whole. */
const { report, sheet, selection, block, table } = useSheetSelection()
const on = (event: Event) => (event.target as HTMLInputElement).checked
const mm = (points: number) => Math.round((points / 72) * 254) / 10
const scope = computed(() =>
  block.value && report.tree ? scopeOfBlock(report.definition!, report.tree.levels, block.value.id) : undefined,
)
const words = {
  panel: t('blockSection.panel'),
  table: t('blockSection.table'),
  repeat: t('blockSection.repeat2'),
  statement: t('blockSection.statement'),
  chart: t('blockSection.chart'),
  crosstab: t('blockSection.crosstab'),
  nested: t('blockSection.nestedReport'),
  ties: t('blockSection.listOfTieOuts'),
  break: t('blockSection.pageBreak'),
} as const
const edge = computed(() => ['top', 'foot', 'firstTop', 'firstFoot'].some(each => report.layout?.[each as 'top']?.id === block.value?.id))
const hidden = computed(() => table.value?.columns.filter(column => column.hidden) ?? [])
const levels = computed(() => report.tree?.levels ?? [])
const has = (kind: 'end' | 'titles') => !!table.value?.rows.some(row => row.kind === kind)
</script>

<template>
  <SheetSection v-if="block" :title="t('blockSection.this', { words: words[block.kind] })" :note="block.id">
    <template v-if="table">
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="has('titles')"
          @change="report.edit(t('blockSection.titles'), now => tickRow(now, block!.id, 'titles', on($event)))"
        />
        {{ t('blockSection.rowOfTitles') }}</label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="table.repeatTitles"
          @change="report.edit(t('blockSection.titles'), now => setTable(now, block!.id, { repeatTitles: on($event) }))"
        />
        {{ t('blockSection.titlesOnEachPage') }}</label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="has('end')"
          @change="report.edit(t('blockSection.tableEnd'), now => tickRow(now, block!.id, 'end', on($event)))"
        />
        {{ t('blockSection.rowAtTheTableS') }}</label
      >
      <SheetRuleField
        :value="(table.sort ?? []).map(each => `${each.field}${each.descending ? ' descending' : ''}`).join(', ')"
        :scope="undefined"
        :test="false"
        :label="t('blockSection.linesInTheOrderOf')"
        :hint="t('blockSection.asInData')"
        @set="
          report.edit(t('blockSection.orderOfLines'), now =>
            setTable(now, block!.id, {
              sort: $event
                .split(',')
                .map(each => each.trim())
                .filter(Boolean)
                .map(each => ({ field: each.replace(/ descending$/, ''), descending: / descending$/.test(each) })),
            }),
          )
        "
      />
      <p v-if="hidden.length" class="flex flex-wrap items-center gap-1">
        <span class="text-muted">{{ t('blockSection.hidden') }}</span><UButton
          v-for="each in hidden"
          :key="each.id"
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-eye"
          @click="report.edit(t('blockSection.showColumn'), now => setColumn(now, block!.id, each.id, { hidden: false }))"
          >{{ each.id }}</UButton
        >
      </p>
    </template>
    <template v-if="isRepeat(block)">
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="block.newPage"
          @change="report.edit(t('blockSection.newPage'), now => setRepeat(now, block!.id, { newPage: on($event) }))"
        />
        {{ t('blockSection.eachOnANewPage') }}</label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="block.restartNumbers"
          @change="report.edit(t('blockSection.pageNumbers'), now => setRepeat(now, block!.id, { restartNumbers: on($event) }))"
        />
        {{ t('blockSection.pageNumbersFrom1') }}</label
      >
      <label class="block"
        ><span class="text-muted">{{ t('blockSection.nameInTheOutline') }}</span
        ><TextField
          mono
          class="mt-0.5 w-full"
          :value="block.outline ?? ''"
          @write="report.edit(t('blockSection.outline'), now => setRepeat(now, block!.id, { outline: $event }))"
      /></label>
      <SheetRuleField
        :value="block.language ?? ''"
        :scope="scope"
        :test="false"
        :label="t('blockSection.languageOfEachByA')"
        :hint="t('blockSection.thatOfTheReport')"
        @set="report.edit(t('blockSection.language'), now => setRepeat(now, block!.id, { language: $event }))"
      />
    </template>
    <label v-if="isTies(block)" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="block.failedOnly"
        @change="
          report.edit(t('common.tieOutsOnThePage'), now =>
            changeBlock(now, block!.id, own => ({ ...own, failedOnly: on($event) }) as typeof own),
          )
        "
      />
      {{ t('blockSection.onlyThoseThatDoNot') }}</label
    >
    <SheetRuleField
      :value="block.showWhen ?? ''"
      :scope="scope"
      :label="t('blockSection.showWhen')"
      @set="report.edit(t('blockSection.showWhen'), now => setShowWhen(now, block!.id, $event))"
    />
    <label v-if="!isBreak(block) && !isRepeat(block)" class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('blockSection.spaceUnderItMm') }}</span
      ><NumberField
        :least="0"
        class="w-20"
        :aria-label="t('blockSection.spaceUnderItInMillimetres')"
        :value="mm(block.after)"
        @write="report.edit(t('blockSection.space'), now => setAfter(now, block!.id, ($event * 72) / 25.4))"
    /></label>
    <label v-if="!edge && (isPanel(block) || isTable(block))" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!block.atBottom"
        @change="report.edit(t('blockSection.atTheBottom'), now => setAtBottom(now, block!.id, on($event)))"
      />
      {{ t('blockSection.standsAtTheBottomOf') }}</label
    >
    <div class="flex flex-wrap gap-1">
      <template v-if="!edge && !block.id.startsWith('nested')">
        <UButton
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-arrow-up"
          :aria-label="t('blockSection.blockUp')"
          @click="report.edit(t('common.moveBlock'), now => shiftBlock(now, block!.id, -1))"
        />
        <UButton
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-arrow-down"
          :aria-label="t('blockSection.blockDown')"
          @click="report.edit(t('common.moveBlock'), now => shiftBlock(now, block!.id, 1))"
        />
        <UButton
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-copy"
          :aria-label="t('common.duplicateBlock')"
          @click="report.edit(t('common.duplicateBlock'), now => duplicateBlock(now, block!.id))"
        />
        <UButton
          v-if="isRepeat(block)"
          size="xs"
          variant="outline"
          color="neutral"
          @click="
            () => {
              report.edit(t('blockSection.takeTheRepeatAway'), now => unwrapRepeat(now, block!.id))
              sheet.selection = undefined
            }
          "
          >{{ t('blockSection.takeTheRepeatAway') }}</UButton
        >
        <PickField
          v-else
          size="xs"
          class="w-40"
          :aria-label="t('blockSection.repeatItForEach')"
          @pick="report.edit(t('blockSection.repeat'), now => wrapInRepeat(now, block!.id, $event))"
        >
          <option value="">{{ t('blockSection.repeatForEach') }}</option>
          <option v-for="each in levels" :key="each.name" :value="each.name">{{ oneOf(each.caption) }}</option>
        </PickField>
      </template>
      <UButton
        v-if="selection?.part === 'block'"
        size="xs"
        variant="outline"
        color="error"
        icon="i-lucide-trash-2"
        class="ml-auto"
        @click="
          () => {
            report.edit(t('blockSection.deleteBlock'), now => removeBlock(now, block!.id))
            sheet.selection = undefined
          }
        "
        >{{ t('blockSection.deleteThis', { words: words[block.kind] }) }}</UButton
      >
    </div>
  </SheetSection>
</template>
