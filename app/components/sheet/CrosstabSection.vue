<script setup lang="ts">
import { VueDraggable } from 'vue-draggable-plus'
import { groupCaption, measureCaption } from '../../../core/compose/crosstab/prepare'
import { checked, groupFields } from '../../../core/compose/totals'
import type { Axis, AxisGroup, CrosstabMeasure } from '../../../core/definition/blocks/crosstab'
import {
  addAxisGroup,
  addMeasure,
  changeCrosstab,
  moveAxisGroup,
  moveMeasure,
  removeAxisGroup,
  removeMeasure,
  setAxisGroup,
  setMeasure,
  swapAxes,
} from '../../../core/definition/edits/crosstab'
import { axisGroupBy } from '../../../core/templates/crosstab'

/** The selected crosstab: its groups on both axes, dragged from one to the other, and what stands where they meet. */
const { report, definition, crosstab } = useSheetSelection()
const id = computed(() => crosstab.value!.id)
const level = computed(() => levelOfBlock(definition.value, report.tree!.levels, id.value))
const scope = computed(() => scopeOfBlock(definition.value, report.tree!.levels, id.value))
const lineScope = computed(() => ({ ...scope.value, row: 'line' as const }))
const on = (event: Event) => (event.target as HTMLInputElement).checked
const fields = computed(() =>
  groupFields(report.tree!.levels, level.value).map(field => ({
    field,
    formula: fieldFormula(report.tree!.levels, level.value, field.level, field.path),
  })),
)
/** What is the same for all records: answers and the day. */
const dayScope = computed(() => ({ levels: [], level: -1, parameters: report.model!.parameterTypes }))
/** Dates to begin with: those of a parameter, else the year so far. */
function everyOf(): NonNullable<AxisGroup['every']> {
  const range = definition.value.parameters.find(each => each.kind === 'dates')
  return range ? { from: `param.${range.name}.from`, to: `param.${range.name}.to` } : { from: 'date(year(today()), 1, 1)', to: 'today()' }
}
const axisWords: Record<Axis, string> = { rows: t('crosstabSection.downTheLeft2'), columns: t('crosstabSection.acrossTheTop2') }
function add(axis: Axis, picked: string): void {
  const found = fields.value.find(each => each.formula === picked)
  if (found) report.edit(t('common.addGroup'), now => addAxisGroup(now, id.value, axis, axisGroupBy(found.field, found.formula)))
}
const set = (group: AxisGroup, change: Partial<AxisGroup>) =>
  report.edit(t('common.group'), now => setAxisGroup(now, id.value, group.id, change))
/** Dropping a group gives its axis a list with one more, or another order. */
function dropped(axis: Axis, next: readonly AxisGroup[]): void {
  const before = crosstab.value![axis].map(each => each.id)
  const after = next.map(each => each.id)
  const come = after.find(each => !before.includes(each))
  const moved = come ?? after.find(each => after.filter(own => own !== each).join() === before.filter(own => own !== each).join())
  if (after.length < before.length || !moved || after.join() === before.join()) return
  report.edit(t('crosstabSection.moveGroup'), now => moveAxisGroup(now, id.value, moved, axis, after.indexOf(moved)))
}
function ordered(next: readonly CrosstabMeasure[]): void {
  const before = crosstab.value!.measures.map(each => each.id)
  const after = next.map(each => each.id)
  const moved = after.find(each => after.filter(own => own !== each).join() === before.filter(own => own !== each).join())
  if (moved && after.join() !== before.join())
    report.edit(t('crosstabSection.orderOfMeasures'), now => moveMeasure(now, id.value, moved, after.indexOf(moved)))
}
const numbers = computed(() =>
  [...report.tree!.levels[level.value]!.fields.values()].filter(field => field.type === 'number' && field.role === 'measure'),
)
const totalWords = {
  sum: t('crosstabSection.sum'),
  average: t('crosstabSection.average'),
  min: t('crosstabSection.smallest'),
  max: t('crosstabSection.largest'),
  median: t('crosstabSection.median'),
  distinct: t('crosstabSection.howManyDifferent'),
}
const offered = computed(() => [
  { label: t('crosstabSection.howManyRecords'), formula: `count(${report.tree!.levels[level.value]!.name})` },
  ...numbers.value.flatMap(field => {
    const own = fieldFormula(report.tree!.levels, level.value, field.level, field.path)
    return [{ label: t('crosstabSection.sumOf', { field: fieldTitle(field).toLowerCase() }), formula: `sum(${own})` }]
  }),
])
const change = (measure: CrosstabMeasure, more: Partial<CrosstabMeasure>) =>
  report.edit(t('crosstabSection.measure'), now => setMeasure(now, id.value, measure.id, more))
const nameOf = (measure: CrosstabMeasure) => measureCaption(measure, checked(measure.formula, scope.value))
const groupName = (group: AxisGroup) => groupCaption(group, checked(group.by, lineScope.value))
const measureTotals = computed(() => [
  ...crosstab.value!.measures.map(each => ({ label: nameOf(each).toLowerCase(), formula: each.formula })),
  { label: t('crosstabSection.howManyThereAre'), formula: `count(${report.tree!.levels[level.value]!.name})` },
])
/** Another total of the same value, where a measure is a total of one. */
function totalOf(measure: CrosstabMeasure): { kind: string; value: string } | undefined {
  const found = /^(sum|average|min|max|median|distinct)\(([^()]+)\)$/.exec(measure.formula)
  return found ? { kind: found[1]!, value: found[2]! } : undefined
}
const looks = {
  plain: t('crosstabSection.byItself'),
  shareOfRow: t('crosstabSection.shareOfItsRow'),
  shareOfColumn: t('crosstabSection.shareOfItsColumn'),
  shareOfAll: t('crosstabSection.shareOfAll'),
  running: t('crosstabSection.addedUpAlong'),
  difference: t('crosstabSection.differenceToTheOneBefore'),
  percent: t('crosstabSection.changeInPerCent'),
} as const
const list = (axis: Axis) => crosstab.value![axis]
</script>

<template>
  <SheetSection v-if="crosstab" :title="t('crosstabSection.crosstab')">
    <template v-for="(words, axis) in axisWords" :key="axis">
      <div class="flex items-center justify-between">
        <span class="text-muted">{{ words }}</span>
        <UButton
          v-if="axis === 'rows'"
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-arrow-left-right"
          :disabled="!crosstab.rows.length && !crosstab.columns.length"
          @click="report.edit(t('crosstabSection.swapAxes'), now => swapAxes(now, id))"
          >{{ t('crosstabSection.swap') }}</UButton
        >
      </div>
      <VueDraggable
        :model-value="list(axis)"
        :group="`axes ${id}`"
        handle="[data-grip]"
        :animation="120"
        class="min-h-6 space-y-1 rounded-md"
        :class="list(axis).length ? '' : 'border border-dashed border-default'"
        :data-axis="axis"
        @update:model-value="dropped(axis, $event)"
      >
        <details v-for="(group, index) in list(axis)" :key="group.id" class="rounded-md border border-default" :data-group="group.id">
          <summary class="flex cursor-pointer items-center gap-2 px-2 py-1">
            <UIcon name="i-lucide-grip-vertical" class="size-4 cursor-grab text-dimmed" data-grip /><span class="truncate font-medium">{{
              groupName(group)
            }}</span>
            <span class="ml-auto flex"
              ><UButton
                size="xs"
                variant="ghost"
                color="neutral"
                icon="i-lucide-arrow-up"
                :aria-label="t('crosstabSection.outwards')"
                :disabled="index === 0"
                @click.prevent="
                  report.edit(t('crosstabSection.moveGroup'), now => moveAxisGroup(now, id, group.id, axis, index - 1))
                " /><UButton
                size="xs"
                variant="ghost"
                color="neutral"
                :icon="axis === 'rows' ? 'i-lucide-arrow-up-right' : 'i-lucide-arrow-down-left'"
                :aria-label="
                  axis === 'rows'
                    ? t('crosstabSection.acrossTheTop', { group: groupName(group) })
                    : t('crosstabSection.downTheLeft', { group: groupName(group) })
                "
                @click.prevent="
                  report.edit(t('crosstabSection.moveGroup'), now =>
                    moveAxisGroup(now, id, group.id, axis === 'rows' ? 'columns' : 'rows', 99),
                  )
                " /><UButton
                size="xs"
                variant="ghost"
                color="neutral"
                icon="i-lucide-x"
                :aria-label="t('crosstabSection.takeOut', { group: groupName(group) })"
                @click.prevent="report.edit(t('crosstabSection.deleteGroup'), now => removeAxisGroup(now, id, group.id))"
            /></span>
          </summary>
          <div class="space-y-1.5 px-2 pb-2">
            <label class="block"
              ><span class="text-muted">{{ t('common.called') }}</span
              ><TextField
                class="mt-0.5 w-full"
                :placeholder="groupName({ ...group, caption: undefined } as never)"
                :aria-label="t('crosstabSection.nameOf', { group: groupName(group) })"
                :value="group.caption ?? ''"
                @write="set(group, { caption: $event.trim() })"
            /></label>
            <SheetGroupFields :group="group" :scope="lineScope" :measures="measureTotals" :depth="index" @set="set(group, $event)" />
            <template v-if="group.step && index === list(axis).length - 1">
              <label class="flex items-center gap-2"
                ><input
                  type="checkbox"
                  class="accent-petrol-700"
                  :checked="!!group.every"
                  @change="set(group, { every: on($event) ? everyOf() : undefined })"
                />
                {{ t('crosstabSection.eachOneAlsoWithoutRecords') }}</label
              >
              <template v-if="group.every">
                <SheetRuleField
                  v-for="end in ['from', 'to'] as const"
                  :key="end"
                  :value="group.every[end]"
                  :scope="dayScope"
                  :test="false"
                  :label="end === 'from' ? t('crosstabSection.fromTheDate') : t('crosstabSection.toTheDate')"
                  @set="$event && set(group, { every: { ...group.every, [end]: $event } })"
                />
              </template>
            </template>
            <label class="flex items-center justify-between gap-2"
              ><span class="text-muted">{{ t('crosstabSection.total') }}</span
              ><PickField
                class="w-36"
                :aria-label="t('crosstabSection.totalOver', { group: groupName(group) })"
                :value="group.total"
                @pick="set(group, { total: $event as 'after' })"
              >
                <option value="after">{{ t('crosstabSection.afterThem') }}</option>
                <option value="before">{{ t('crosstabSection.beforeThem') }}</option>
                <option value="none">{{ t('common.none') }}</option>
              </PickField></label
            >
          </div>
        </details>
      </VueDraggable>
      <PickField class="w-full text-muted" :aria-label="t('crosstabSection.aFieldMore', { words })" @pick="add(axis, $event)">
        <option value="">+ {{ words.toLowerCase() }} …</option>
        <option v-for="each in fields" :key="each.formula" :value="each.formula">
          {{ fieldTitle(each.field)
          }}{{ each.field.level === level ? '' : ` (${report.tree!.levels[each.field.level]!.caption.toLowerCase()})` }}
        </option>
      </PickField>
    </template>
    <span class="text-muted">{{ t('crosstabSection.whereTheyMeet') }}</span>
    <VueDraggable
      :model-value="crosstab.measures"
      handle="[data-grip]"
      :animation="120"
      class="space-y-1"
      @update:model-value="ordered($event)"
    >
      <details v-for="each in crosstab.measures" :key="each.id" class="rounded-md border border-default" :data-measure="each.id">
        <summary class="flex cursor-pointer items-center gap-2 px-2 py-1">
          <UIcon name="i-lucide-grip-vertical" class="size-4 cursor-grab text-dimmed" data-grip /><span class="truncate font-medium">{{
            nameOf(each)
          }}</span>
          <UButton
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            class="ml-auto"
            :aria-label="t('crosstabSection.takeOut2', { each: nameOf(each) })"
            @click.prevent="report.edit(t('crosstabSection.deleteMeasure'), now => removeMeasure(now, id, each.id))"
          />
        </summary>
        <div class="space-y-1.5 px-2 pb-2">
          <label v-if="totalOf(each)" class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('crosstabSection.total') }}</span
            ><PickField
              class="w-36"
              :aria-label="t('crosstabSection.whichTotal')"
              :value="totalOf(each)!.kind"
              @pick="change(each, { formula: `${$event}(${totalOf(each)!.value})` })"
            >
              <option v-for="(words, kind) in totalWords" :key="kind" :value="kind">{{ words }}</option>
            </PickField></label
          >
          <SheetRuleField
            :value="each.formula"
            :scope="scope"
            :label="t('common.formula')"
            :test="false"
            @set="$event && change(each, { formula: $event })"
          />
          <label class="block"
            ><span class="text-muted">{{ t('common.called') }}</span
            ><TextField
              class="mt-0.5 w-full"
              :placeholder="nameOf({ ...each, caption: undefined } as never)"
              :aria-label="t('crosstabSection.nameOf2', { each: nameOf(each) })"
              :value="each.caption ?? ''"
              @write="change(each, { caption: $event.trim() })"
          /></label>
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('crosstabSection.seen') }}</span
            ><PickField
              class="w-44"
              :aria-label="t('crosstabSection.howTheFigureIsSeen')"
              :value="each.look ?? 'plain'"
              @pick="change(each, { look: $event === 'plain' ? undefined : ($event as 'running') })"
            >
              <option v-for="(words, look) in looks" :key="look" :value="look">{{ words }}</option>
            </PickField></label
          >
          <label v-if="['running', 'difference', 'percent'].includes(each.look ?? '')" class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('crosstabSection.along') }}</span
            ><PickField
              class="w-44"
              :aria-label="t('crosstabSection.alongWhichAxis')"
              :value="each.along ?? 'columns'"
              @pick="change(each, { along: $event as 'rows' })"
            >
              <option value="columns">{{ t('crosstabSection.theColumnsLeftToRight') }}</option>
              <option value="rows">{{ t('crosstabSection.theRowsFromTheTop') }}</option>
            </PickField></label
          >
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('common.format') }}</span
            ><TextField
              mono
              class="w-36"
              :placeholder="t('crosstabSection.asTheField')"
              :aria-label="t('crosstabSection.formatOf', { each: nameOf(each) })"
              :value="each.format ?? ''"
              @write="change(each, { format: $event.trim() })"
          /></label>
          <label class="flex items-center gap-2"
            ><input type="checkbox" class="accent-petrol-700" :checked="!!each.shade" @change="change(each, { shade: on($event) })" />
            {{ t('crosstabSection.shadeByValue') }}</label
          >
        </div>
      </details>
    </VueDraggable>
    <PickField
      class="w-full text-muted"
      :aria-label="t('crosstabSection.aFigureMore')"
      @pick="$event && report.edit(t('crosstabSection.addMeasure'), now => addMeasure(now, id, { formula: $event }))"
    >
      <option value="">{{ t('crosstabSection.aFigure') }}</option>
      <option v-for="each in offered" :key="each.formula" :value="each.formula">{{ each.label }}</option>
    </PickField>
    <label v-if="crosstab.measures.length > 1" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!crosstab.stacked"
        @change="
          report.edit(t('crosstabSection.measures'), now =>
            changeCrosstab(now, id, ({ stacked: _, ...own }) => (on($event) ? { ...own, stacked: true } : own)),
          )
        "
      />
      {{ t('crosstabSection.oneUnderTheOtherIn') }}</label
    >
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('crosstabSection.tooWide') }}</span
      ><PickField
        class="w-44"
        :aria-label="t('crosstabSection.whereItIsTooWide')"
        :value="crosstab.wide"
        @pick="report.edit(t('crosstabSection.tooWide'), now => changeCrosstab(now, id, own => ({ ...own, wide: $event as 'down' })))"
      >
        <option value="down">{{ t('crosstabSection.pagesDownwardsFirst') }}</option>
        <option value="across">{{ t('crosstabSection.pagesRightwardsFirst') }}</option>
        <option value="smaller">{{ t('crosstabSection.writeItSmaller') }}</option>
      </PickField></label
    >
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="crosstab.repeatTitles"
        @change="report.edit(t('crosstabSection.titles'), now => changeCrosstab(now, id, own => ({ ...own, repeatTitles: on($event) })))"
      />
      {{ t('crosstabSection.titlesOnEachPage') }}</label
    >
  </SheetSection>
</template>
