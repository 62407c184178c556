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
  panel: 'panel',
  table: 'table',
  repeat: 'repeat',
  statement: 'statement',
  chart: 'chart',
  crosstab: 'crosstab',
  nested: 'nested report',
  ties: 'list of tie-outs',
  break: 'page break',
} as const
const edge = computed(() => ['top', 'foot', 'firstTop', 'firstFoot'].some(each => report.layout?.[each as 'top']?.id === block.value?.id))
const hidden = computed(() => table.value?.columns.filter(column => column.hidden) ?? [])
const levels = computed(() => report.tree?.levels ?? [])
const has = (kind: 'end' | 'titles') => !!table.value?.rows.some(row => row.kind === kind)
</script>

<template>
  <SheetSection v-if="block" :title="`This ${words[block.kind]}`" :note="block.id">
    <template v-if="table">
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="has('titles')"
          @change="report.edit('Titles', now => tickRow(now, block!.id, 'titles', on($event)))"
        />
        Row of titles</label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="table.repeatTitles"
          @change="report.edit('Titles', now => setTable(now, block!.id, { repeatTitles: on($event) }))"
        />
        Titles on each page</label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="has('end')"
          @change="report.edit('Table end', now => tickRow(now, block!.id, 'end', on($event)))"
        />
        Row at the table’s end</label
      >
      <SheetRuleField
        :value="(table.sort ?? []).map(each => `${each.field}${each.descending ? ' descending' : ''}`).join(', ')"
        :scope="undefined"
        :test="false"
        label="Lines in the order of"
        hint="as in Data"
        @set="
          report.edit('Order of lines', now =>
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
        <span class="text-muted">Hidden:</span
        ><UButton
          v-for="each in hidden"
          :key="each.id"
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-eye"
          @click="report.edit('Show column', now => setColumn(now, block!.id, each.id, { hidden: false }))"
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
          @change="report.edit('New page', now => setRepeat(now, block!.id, { newPage: on($event) }))"
        />
        Each on a new page</label
      >
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="block.restartNumbers"
          @change="report.edit('Page numbers', now => setRepeat(now, block!.id, { restartNumbers: on($event) }))"
        />
        Page numbers from 1</label
      >
      <label class="block"
        ><span class="text-muted">Name in the outline</span
        ><TextField
          mono
          class="mt-0.5 w-full"
          :value="block.outline ?? ''"
          @write="report.edit('Outline', now => setRepeat(now, block!.id, { outline: $event }))"
      /></label>
      <SheetRuleField
        :value="block.language ?? ''"
        :scope="scope"
        :test="false"
        label="Language of each, by a field"
        hint="that of the report"
        @set="report.edit('Language', now => setRepeat(now, block!.id, { language: $event }))"
      />
    </template>
    <label v-if="isTies(block)" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="block.failedOnly"
        @change="
          report.edit('Tie-outs on the page', now => changeBlock(now, block!.id, own => ({ ...own, failedOnly: on($event) }) as typeof own))
        "
      />
      Only those that do not hold</label
    >
    <SheetRuleField
      :value="block.showWhen ?? ''"
      :scope="scope"
      label="Show when"
      @set="report.edit('Show when', now => setShowWhen(now, block!.id, $event))"
    />
    <label v-if="!isBreak(block) && !isRepeat(block)" class="flex items-center justify-between gap-2"
      ><span class="text-muted">Space under it, mm</span
      ><NumberField
        :least="0"
        class="w-20"
        aria-label="Space under it in millimetres"
        :value="mm(block.after)"
        @write="report.edit('Space', now => setAfter(now, block!.id, ($event * 72) / 25.4))"
    /></label>
    <label v-if="!edge && (isPanel(block) || isTable(block))" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!block.atBottom"
        @change="report.edit('At the bottom', now => setAtBottom(now, block!.id, on($event)))"
      />
      Stands at the bottom of its page</label
    >
    <div class="flex flex-wrap gap-1">
      <template v-if="!edge && !block.id.startsWith('nested')">
        <UButton
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-arrow-up"
          aria-label="Block up"
          @click="report.edit('Move block', now => shiftBlock(now, block!.id, -1))"
        />
        <UButton
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-arrow-down"
          aria-label="Block down"
          @click="report.edit('Move block', now => shiftBlock(now, block!.id, 1))"
        />
        <UButton
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-copy"
          aria-label="Duplicate block"
          @click="report.edit('Duplicate block', now => duplicateBlock(now, block!.id))"
        />
        <UButton
          v-if="isRepeat(block)"
          size="xs"
          variant="outline"
          color="neutral"
          @click="
            () => {
              report.edit('Take the repeat away', now => unwrapRepeat(now, block!.id))
              sheet.selection = undefined
            }
          "
          >Take the repeat away</UButton
        >
        <PickField
          v-else
          size="xs"
          class="w-40"
          aria-label="Repeat it for each"
          @pick="report.edit('Repeat', now => wrapInRepeat(now, block!.id, $event))"
        >
          <option value="">Repeat for each …</option>
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
            report.edit('Delete block', now => removeBlock(now, block!.id))
            sheet.selection = undefined
          }
        "
        >Delete this {{ words[block.kind] }}</UButton
      >
    </div>
  </SheetSection>
</template>
