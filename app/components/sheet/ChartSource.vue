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
const sides: Record<Side, string> = { by: 'Along the chart', split: 'One series for each' }
function pick(side: Side, formula: string): void {
  const found = fields.value.find(each => each.formula === formula)
  set(side === 'by' ? 'What stands along the chart' : 'Series', now =>
    drop({ ...now, [side]: found && chartGroup({ ...now, [side]: undefined } as ChartBlock, found.field, found.formula) } as ChartBlock),
  )
}
const setGroup = (side: Side, change: Partial<AxisGroup>) =>
  set('Group of the chart', now => ({ ...now, [side]: { ...drop({ ...now[side]!, ...change }), total: 'none' } }))
const setMeasure = (id: string, change: Partial<ChartMeasure>) =>
  set('Figure of the chart', now => ({
    ...now,
    measures: now.measures!.map(each => (each.id === id ? drop({ ...each, ...change }) : each)),
  }))
const numbers = computed(() =>
  [...report.tree!.levels[level.value]!.fields.values()].filter(field => field.type === 'number' && field.role === 'measure'),
)
const offered = computed(() => [
  { label: 'How many records', formula: `count(${report.tree!.levels[level.value]!.name})` },
  ...numbers.value.map(field => ({
    label: `Sum of ${fieldTitle(field).toLowerCase()}`,
    formula: `sum(${fieldFormula(report.tree!.levels, level.value, field.level, field.path)})`,
  })),
])
function addFigure(formula: string): void {
  set('Figure of the chart', now => {
    const taken = [...(now.measures ?? []), now.by, now.split].flatMap(each => each?.id ?? [])
    const id = freeId(wordOf(/\(([^(),]+)/.exec(formula)?.[1] ?? formula), taken, true)
    return { ...now, measures: [...(now.measures ?? []), { id, formula }] }
  })
}
const nameOf = (measure: ChartMeasure) => measureCaption(measure, checked(measure.formula, scope.value))
const totals = computed(() => (own.value.measures ?? []).map(each => ({ label: nameOf(each).toLowerCase(), formula: each.formula })))
const formWords = { bars: 'bars', lines: 'line', areas: 'area', points: 'points' } as const
</script>

<template>
  <div v-for="(words, side) in sides" :key="side" class="space-y-1">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ words }}</span
      ><PickField class="w-40" :aria-label="words" :value="own[side]?.by ?? ''" @pick="pick(side, $event)">
        <option value="">{{ side === 'by' ? 'all together' : 'none' }}</option>
        <option v-if="own[side] && !fields.some(each => each.formula === own[side]!.by)" :value="own[side]!.by">{{ own[side]!.by }}</option>
        <option v-for="each in fields" :key="each.formula" :value="each.formula">{{ fieldTitle(each.field) }}</option>
      </PickField></label
    >
    <details v-if="own[side]" class="rounded-md border border-default px-2 py-1">
      <summary class="cursor-pointer text-muted">How it is grouped</summary>
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
    <span class="text-muted">Figures</span>
    <details v-for="(each, place) in own.measures ?? []" :key="each.id" class="rounded-md border border-default" :data-measure="each.id">
      <summary class="flex cursor-pointer items-center gap-2 px-2 py-1">
        <input
          v-if="!own.split"
          type="color"
          class="size-5 shrink-0 cursor-pointer rounded border border-default bg-transparent"
          :value="each.colour ?? seriesColour(place)"
          :aria-label="`Colour of ${nameOf(each)}`"
          @change="setMeasure(each.id, { colour: value($event) })"
        /><span class="truncate">{{ nameOf(each) }}</span>
        <UButton
          class="ml-auto"
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="`Take ${nameOf(each)} out`"
          @click.prevent="set('Figure of the chart', now => ({ ...now, measures: now.measures!.filter(other => other.id !== each.id) }))"
        />
      </summary>
      <div class="space-y-2 px-2 pb-2">
        <SheetRuleField
          :value="each.formula"
          :scope="scope"
          label="Formula"
          :test="false"
          @set="$event && setMeasure(each.id, { formula: $event })"
        />
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">Called</span
          ><TextField
            class="w-36"
            :aria-label="`Name of ${nameOf(each)}`"
            :value="each.caption ?? ''"
            :placeholder="nameOf(each)"
            @write="setMeasure(each.id, { caption: $event.trim() })"
        /></label>
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">Drawn as</span
          ><PickField
            class="w-36"
            :aria-label="`Form of ${nameOf(each)}`"
            :value="each.form ?? ''"
            @pick="setMeasure(each.id, { form: ($event || undefined) as 'bars' })"
          >
            <option value="">as the chart</option>
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
          At an axis of its own, on the right</label
        >
      </div>
    </details>
    <PickField size="xs" class="w-full" aria-label="Add a figure" @pick="addFigure($event)">
      <option value="">Add a figure …</option>
      <option v-for="each in offered" :key="each.formula" :value="each.formula">{{ each.label }}</option>
    </PickField>
  </div>
</template>
