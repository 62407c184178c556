<script setup lang="ts">
import { checked, groupFields } from '../../../core/compose/totals'
import { measureCaption } from '../../../core/compose/crosstab/prepare'
import { seriesColour } from '../../../core/compose/chart/data'
import { type ChartBlock, type ChartMeasure, seriesForms } from '../../../core/definition/blocks/chart'
import type { AxisGroup } from '../../../core/definition/blocks/crosstab'
import { changeChart } from '../../../core/definition/edits/chart'
import { freeId } from '../../../core/definition/edits/edits'
import { wordOf } from '../../../core/definition/edits/tableGroups'
import { chartGroup } from '../../../core/templates/chart'

/** A chart of a level: what stands along it, what divides it into series, and its figures. */
const { report, definition, chart } = useSheetSelection()
const value = (event: Event) => (event.target as HTMLInputElement).value
const on = (event: Event) => (event.target as HTMLInputElement).checked
const own = computed(() => chart.value!)
const level = computed(() => levelOfBlock(definition.value, report.tree!.levels, own.value.id))
const scope = computed(() => scopeOfBlock(definition.value, report.tree!.levels, own.value.id))
const lineScope = computed(() => ({ ...scope.value, row: 'line' as const }))
const fields = computed(() =>
  groupFields(report.tree!.levels, level.value).map(field => ({
    field,
    formula: fieldFormula(report.tree!.levels, level.value, field.level, field.path),
  })),
)
const set = (label: string, change: (chart: ChartBlock) => ChartBlock) => report.edit(label, now => changeChart(now, own.value.id, change))
const drop = <T extends object>(made: T): T =>
  Object.fromEntries(Object.entries(made).filter(([, each]) => each !== undefined && each !== '' && each !== false)) as T
type Side = 'by' | 'split'
const sides: Record<Side, string> = { by: t('chartSource.alongTheChart'), split: t('chartSource.oneSeriesForEach') }
function pick(side: Side, formula: string): void {
  const found = fields.value.find(each => each.formula === formula)
  set(side === 'by' ? t('chartSource.whatStandsAlongTheChart') : t('chartSource.series'), now =>
    drop({ ...now, [side]: found && chartGroup({ ...now, [side]: undefined } as ChartBlock, found.field, found.formula) } as ChartBlock),
  )
}
const setGroup = (side: Side, change: Partial<AxisGroup>) =>
  set(t('chartSource.groupOfTheChart'), now => ({ ...now, [side]: { ...drop({ ...now[side]!, ...change }), total: 'none' } }))
const setMeasure = (id: string, change: Partial<ChartMeasure>) =>
  set(t('chartSource.figureOfTheChart'), now => ({
    ...now,
    measures: now.measures!.map(each => (each.id === id ? drop({ ...each, ...change }) : each)),
  }))
const numbers = computed(() =>
  [...report.tree!.levels[level.value]!.fields.values()].filter(field => field.type === 'number' && field.role === 'measure'),
)
const offered = computed(() => [
  { label: t('chartSource.howManyRecords'), formula: `count(${report.tree!.levels[level.value]!.name})` },
  ...numbers.value.map(field => ({
    label: t('chartSource.sumOf', { field: fieldTitle(field).toLowerCase() }),
    formula: `sum(${fieldFormula(report.tree!.levels, level.value, field.level, field.path)})`,
  })),
])
function addFigure(formula: string): void {
  set(t('chartSource.figureOfTheChart'), now => {
    const taken = [...(now.measures ?? []), now.by, now.split].flatMap(each => each?.id ?? [])
    const id = freeId(wordOf(/\(([^(),]+)/.exec(formula)?.[1] ?? formula), taken, true)
    return { ...now, measures: [...(now.measures ?? []), { id, formula }] }
  })
}
const nameOf = (measure: ChartMeasure) => measureCaption(measure, checked(measure.formula, scope.value))
const totals = computed(() => (own.value.measures ?? []).map(each => ({ label: nameOf(each).toLowerCase(), formula: each.formula })))
const formWords = {
  bars: t('chartSource.bars'),
  lines: t('common.line2'),
  areas: t('chartSource.area'),
  points: t('chartSource.points'),
} as const
</script>

<template>
  <div v-for="(words, side) in sides" :key="side" class="space-y-1">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ words }}</span
      ><PickField class="w-40" :aria-label="words" :value="own[side]?.by ?? ''" @pick="pick(side, $event)">
        <option value="">{{ side === 'by' ? t('chartSource.allTogether') : t('common.none') }}</option>
        <option v-if="own[side] && !fields.some(each => each.formula === own[side]!.by)" :value="own[side]!.by">{{ own[side]!.by }}</option>
        <option v-for="each in fields" :key="each.formula" :value="each.formula">{{ fieldTitle(each.field) }}</option>
      </PickField></label
    >
    <details v-if="own[side]" class="rounded-md border border-default px-2 py-1">
      <summary class="cursor-pointer text-muted">{{ t('chartSource.howItIsGrouped') }}</summary>
      <div class="space-y-2 pt-2">
        <SheetGroupFields
          :group="own[side]!"
          :scope="lineScope"
          :measures="totals"
          :depth="0"
          @set="setGroup(side, $event as Partial<AxisGroup>)"
        />
      </div>
    </details>
  </div>
  <div class="space-y-1">
    <span class="text-muted">{{ t('chartSource.figures') }}</span>
    <details v-for="(each, place) in own.measures ?? []" :key="each.id" class="rounded-md border border-default" :data-measure="each.id">
      <summary class="flex cursor-pointer items-center gap-2 px-2 py-1">
        <input
          v-if="!own.split"
          type="color"
          class="size-5 shrink-0 cursor-pointer rounded border border-default bg-transparent"
          :value="each.colour ?? seriesColour(place)"
          :aria-label="t('chartSource.colourOf', { each: nameOf(each) })"
          @change="setMeasure(each.id, { colour: value($event) })"
        /><span class="truncate">{{ nameOf(each) }}</span>
        <UButton
          class="ml-auto"
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('chartSource.takeOut', { each: nameOf(each) })"
          @click.prevent="
            set(t('chartSource.figureOfTheChart'), now => ({ ...now, measures: now.measures!.filter(other => other.id !== each.id) }))
          "
        />
      </summary>
      <div class="space-y-2 px-2 pb-2">
        <SheetRuleField
          :value="each.formula"
          :scope="scope"
          :label="t('common.formula')"
          :test="false"
          @set="$event && setMeasure(each.id, { formula: $event })"
        />
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('common.called') }}</span
          ><TextField
            class="w-36"
            :aria-label="t('chartSource.nameOf', { each: nameOf(each) })"
            :value="each.caption ?? ''"
            :placeholder="nameOf(each)"
            @write="setMeasure(each.id, { caption: $event.trim() })"
        /></label>
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('chartSource.drawnAs') }}</span
          ><PickField
            class="w-36"
            :aria-label="t('chartSource.formOf', { each: nameOf(each) })"
            :value="each.form ?? ''"
            @pick="setMeasure(each.id, { form: ($event || undefined) as 'bars' })"
          >
            <option value="">{{ t('chartSource.asTheChart') }}</option>
            <option v-for="form in seriesForms" :key="form" :value="form">{{ formWords[form] }}</option>
          </PickField></label
        >
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="accent-petrol-700"
            :checked="!!each.second"
            @change="setMeasure(each.id, { second: on($event) })"
          />
          {{ t('chartSource.atAnAxisOfIts') }}</label
        >
      </div>
    </details>
    <PickField size="xs" class="w-full" :aria-label="t('chartSource.addAFigure')" @pick="addFigure($event)">
      <option value="">{{ t('chartSource.addAFigure2') }}</option>
      <option v-for="each in offered" :key="each.formula" :value="each.formula">{{ each.label }}</option>
    </PickField>
  </div>
</template>
