<script setup lang="ts">
import { seriesColour } from '../../../core/compose/chart/data'
import { chartWords } from '../../../core/compose/chart/words'
import { measureCaption } from '../../../core/compose/crosstab/prepare'
import { checked } from '../../../core/compose/totals'
import { isCrosstab, type CrosstabBlock } from '../../../core/definition/blocks/crosstab'
import { isTable, type TableBlock } from '../../../core/definition/blocks/table'
import { type Drawn, drawnFrom } from '../../../core/templates/chart'
import { columnName, holdsFigures } from '../../../core/statement/columns'
import { changeChart, drawnLines } from '../../../core/definition/edits/chart'
import { blocksOf } from '../../../core/definition/walk'
import type { ChartBlock, ChartSeries } from '../../../core/definition/blocks/chart'
import { isStatementBlock, type StatementBlock } from '../../../core/definition/blocks/statement'

/** The selected chart: which lines of which statement it draws, and how. */
const { report, definition, chart } = useSheetSelection()
const value = (event: Event) => (event.target as HTMLInputElement).value
const on = (event: Event) => (event.target as HTMLInputElement).checked
const set = (label: string, change: Partial<ChartBlock>) =>
  report.edit(label, now =>
    changeChart(
      now,
      chart.value!.id,
      own => Object.fromEntries(Object.entries({ ...own, ...change }).filter(([, each]) => each !== undefined)) as unknown as ChartBlock,
    ),
  )
const statements = computed(() => blocksOf(report.layout!).filter((block): block is StatementBlock => isStatementBlock(block)))
const statement = computed(() => statements.value.find(each => each.id === chart.value!.statement))
const lines = computed(() => (statement.value ? drawnLines(statement.value) : []))
const left = computed(() => lines.value.filter(line => !chart.value!.series.some(each => each.line === line.id)))
const columns = computed(() => statement.value?.columns.filter(column => !column.hidden) ?? [])
const chosen = (id: string) =>
  chart.value!.columns?.length ? chart.value!.columns.includes(id) : columns.value.some(column => column.id === id && holdsFigures(column))
const forms = computed(() =>
  Object.entries(chartWords)
    .filter(([form]) => statement.value === undefined || form !== 'points')
    .map(([form, words]) => [form, tell(words)]),
)
/** What can be drawn: statements, crosstabs and tables of the layout, and levels. */
const blocks = computed(() =>
  blocksOf(report.layout!).filter((block): block is CrosstabBlock | TableBlock => isCrosstab(block) || isTable(block)),
)
const sources = computed(() => [
  ...statements.value.map(each => ({
    value: `statement ${each.id}`,
    label: each.id === 'statement' ? t('chartSection.theStatement') : t('chartSection.statement', { id: each.id }),
  })),
  ...blocks.value.map(each => ({ value: `of ${each.id}`, label: `${each.kind} ${each.id}` })),
  ...report.tree!.levels.map(level => ({
    value: `level ${level.name}`,
    label: t('chartSection.inGroups', { caption: level.caption.toLowerCase() }),
  })),
])
const source = computed(() => {
  const { level, of, statement: own } = chart.value!
  return level !== undefined ? `level ${level}` : of !== undefined ? `of ${of}` : `statement ${own}`
})
function draw(picked: string): void {
  const [what, ...rest] = picked.split(' ')
  const name = rest.join(' ')
  const { levels } = report.tree!
  const own = statements.value.find(each => each.id === name)
  const drawn: Drawn | undefined =
    what === 'level' ? { level: levels.findIndex(level => level.name === name) } : what === 'of' ? { of: name } : own && { statement: own }
  if (drawn)
    report.edit(t('chartSection.whatTheChartDraws'), now => changeChart(now, chart.value!.id, each => drawnFrom(each, drawn, levels)))
}
/** Columns of a table or measures of a crosstab that can be drawn. */
const drawable = computed(() => {
  const own = blocks.value.find(each => each.id === chart.value!.of)
  if (!own) return []
  if (isCrosstab(own)) {
    const scope = scopeOfBlock(definition.value, report.tree!.levels, own.id)
    return own.measures.map(each => ({ id: each.id, name: measureCaption(each, checked(each.formula, scope)) }))
  }
  const titles = own.rows.find(row => row.kind === 'titles')
  const values = own.rows.find(row =>
    own.groups.length ? row.kind === 'groupEnd' && row.group === own.groups[0]!.id : row.kind === 'line',
  )
  return own.columns
    .filter(column => values?.cells[column.id]?.text.includes('{{'))
    .map(column => ({ id: column.id, name: titles?.cells[column.id]?.text || column.id }))
})
const isDrawn = (id: string) => !chart.value!.columns?.length || chart.value!.columns.includes(id)
function tickDrawn(id: string, ticked: boolean): void {
  const next = drawable.value.map(each => each.id).filter(each => (each === id ? ticked : isDrawn(each)))
  set(t('chartSection.columnsOfTheChart'), { columns: next.length && next.length < drawable.value.length ? next : undefined } as never)
}
const axis = (change: Partial<NonNullable<ChartBlock['axis']>>) => {
  const next = Object.fromEntries(
    Object.entries({ ...chart.value!.axis, ...change }).filter(([, each]) => each !== undefined && each !== false),
  )
  set(t('chartSection.axisOfTheChart'), { axis: Object.keys(next).length ? next : undefined } as never)
}
const endOf = (text: string) => (text.trim() === '' || !Number.isFinite(Number(text)) ? undefined : Number(text))
const seriesForms = { bars: t('chartSection.bars'), lines: t('common.line2'), areas: t('chartSection.area') } as const
const change = (place: number, more: Partial<ChartSeries>) =>
  set(t('chartSection.lineOfTheChart'), {
    series: chart.value!.series.map((each, index) =>
      index === place
        ? (Object.fromEntries(Object.entries({ ...each, ...more }).filter(([, own]) => own)) as unknown as ChartSeries)
        : each,
    ),
  })
function tick(id: string, ticked: boolean): void {
  const next = columns.value.map(column => column.id).filter(each => (each === id ? ticked : chosen(each)))
  set(t('chartSection.columnsOfTheChart'), { columns: next.length ? next : undefined } as never)
}
const mm = (points: number) => Math.round((points / 72) * 254) / 10
</script>

<template>
  <SheetSection v-if="chart" :title="t('chartSection.whatIsDrawn')">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('chartSection.from') }}</span
      ><PickField class="w-44" :aria-label="t('chartSection.whatTheChartDraws')" :value="source" @pick="draw($event)">
        <option v-if="!sources.some(each => each.value === source)" :value="source">{{ t('chartSection.gone', { source }) }}</option>
        <option v-for="each in sources" :key="each.value" :value="each.value">{{ each.label }}</option>
      </PickField></label
    >
    <label class="block"
      ><span class="text-muted">{{ t('common.title') }}</span
      ><TextField
        class="mt-0.5 w-full"
        :value="chart.title ?? ''"
        :placeholder="t('common.none')"
        :aria-label="t('chartSection.titleOfTheChart')"
        @write="set(t('chartSection.titleOfTheChart'), { title: $event.trim() || undefined } as never)"
    /></label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('chartSection.drawnAs') }}</span
      ><PickField
        class="w-40"
        :aria-label="t('chartSection.formOfTheChart')"
        :value="chart.form"
        @pick="set(t('chartSection.formOfTheChart'), { form: $event as 'bars' })"
      >
        <option v-for="[form, words] in forms" :key="form" :value="form">{{ words }}</option>
      </PickField></label
    >
    <label v-if="['bars', 'stacked', 'shares'].includes(chart.form)" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!chart.lying"
        @change="set(t('chartSection.lyingBars'), { lying: on($event) || undefined } as never)"
      />
      {{ t('chartSection.lyingNamesAtTheLeft') }}</label
    >
    <SheetChartSource v-if="chart.level !== undefined" />
    <div v-if="drawable.length > 1" class="space-y-0.5">
      <span class="text-muted">{{ t('chartSection.figures') }}</span>
      <label v-for="each in drawable" :key="each.id" class="flex items-center gap-2"
        ><input type="checkbox" class="accent-petrol-700" :checked="isDrawn(each.id)" @change="tickDrawn(each.id, on($event))" />
        {{ each.name }}</label
      >
    </div>
    <div v-if="statement" class="space-y-1">
      <span class="text-muted">{{ t('common.lines') }}</span>
      <div v-for="(each, place) in chart.series" :key="each.line" class="flex items-center gap-1">
        <input
          type="color"
          class="size-6 shrink-0 cursor-pointer rounded border border-default bg-transparent"
          :value="each.colour ?? seriesColour(place)"
          :aria-label="t('chartSection.colourOf', { line: each.line })"
          @change="change(place, { colour: value($event) })"
        />
        <span class="min-w-0 grow truncate" :title="each.line">{{ lines.find(line => line.id === each.line)?.caption || each.line }}</span>
        <PickField
          size="xs"
          class="w-16"
          :aria-label="t('chartSection.formOf', { line: each.line })"
          :value="each.form ?? ''"
          @pick="change(place, { form: ($event || undefined) as never })"
        >
          <option value="">{{ t('chartSection.same') }}</option>
          <option v-for="(words, form) in seriesForms" :key="form" :value="form">{{ words }}</option>
        </PickField>
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('chartSection.takeOutOfTheChart', { line: each.line })"
          @click="set(t('chartSection.lineOfTheChart'), { series: chart!.series.filter(own => own.line !== each.line) })"
        />
      </div>
      <PickField
        v-if="left.length"
        size="xs"
        class="w-full"
        :aria-label="t('chartSection.drawAnotherLine')"
        @pick="set(t('chartSection.lineOfTheChart'), { series: [...chart!.series, { line: $event }] })"
      >
        <option value="">{{ t('chartSection.drawAnotherLine2') }}</option>
        <option v-for="line in left" :key="line.id" :value="line.id">{{ line.caption || line.id }}</option>
      </PickField>
    </div>
    <div v-if="statement" class="space-y-0.5">
      <span class="text-muted">{{ t('common.columns') }}</span>
      <label v-for="column in columns" :key="column.id" class="flex items-center gap-2"
        ><input type="checkbox" class="accent-petrol-700" :checked="chosen(column.id)" @change="tick(column.id, on($event))" />
        {{ columnName(column, tell) }}</label
      >
    </div>
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="chart.legend"
        @change="set(t('chartSection.legend'), { legend: on($event) })"
      />
      {{ t('chartSection.namesOfTheSeries') }}</label
    >
    <label v-if="chart.form === 'lines' && chart.legend" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!chart.atEnds"
        @change="set(t('chartSection.namesAtTheEnds'), { atEnds: on($event) || undefined } as never)"
      />
      {{ t('chartSection.atTheEndsOfThe') }}</label
    >
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="chart.figures"
        @change="set(t('chartSection.figuresOfTheChart'), { figures: on($event) })"
      />
      {{ t('chartSection.figuresAtTheMarks') }}</label
    >
    <details class="rounded-md border border-default px-2 py-1">
      <summary class="cursor-pointer text-muted">{{ t('chartSection.axisTargetWordsForScreen') }}</summary>
      <div class="space-y-2 pt-2">
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="accent-petrol-700" :checked="!!chart.axis?.log" @change="axis({ log: on($event) })" />
          {{ t('chartSection.byPowersOfTen') }}</label
        >
        <div class="flex items-center justify-between gap-2">
          <span class="text-muted">{{ t('chartSection.fromTo') }}</span><span class="flex gap-1"
            ><TextField
              class="w-20"
              placeholder="0"
              :aria-label="t('chartSection.axisFrom')"
              :value="String(chart.axis?.from ?? '')"
              @write="axis({ from: endOf($event) })" /><TextField
              class="w-20"
              :placeholder="t('chartSection.highest')"
              :aria-label="t('chartSection.axisTo')"
              :value="String(chart.axis?.to ?? '')"
              @write="axis({ to: endOf($event) })"
          /></span>
        </div>
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('chartSection.target') }}</span
          ><TextField
            class="w-36"
            :placeholder="t('chartSection.noneOrAFormula')"
            :aria-label="t('chartSection.targetLine')"
            :value="chart.target?.formula ?? ''"
            @write="
              set(t('chartSection.targetLine'), {
                target: $event.trim() ? { ...chart!.target, formula: $event.trim() } : undefined,
              } as never)
            "
        /></label>
        <label v-if="chart.target" class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('common.called') }}</span
          ><TextField
            class="w-36"
            :aria-label="t('chartSection.nameOfTheTargetLine')"
            :value="chart.target.caption ?? ''"
            @write="
              set(t('chartSection.targetLine'), {
                target: { formula: chart!.target!.formula, ...($event.trim() ? { caption: $event.trim() } : {}) },
              })
            "
        /></label>
        <label class="block"
          ><span class="text-muted">{{ t('chartSection.whatItShowsForThose') }}</span
          ><TextField
            class="mt-0.5 w-full"
            :placeholder="t('chartSection.writtenForYou')"
            :aria-label="t('chartSection.alternativeText')"
            :value="chart.alternative ?? ''"
            @write="set(t('chartSection.alternativeText'), { alternative: $event.trim() || undefined } as never)"
        /></label>
      </div>
    </details>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('chartSection.heightMm') }}</span
      ><NumberField
        :least="15"
        :most="250"
        class="w-20"
        :aria-label="t('chartSection.heightOfTheChart')"
        :value="mm(chart.height)"
        @write="set(t('chartSection.heightOfTheChart'), { height: Math.max(40, ($event * 72) / 25.4) })"
    /></label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('common.widthMm') }}</span
      ><NumberField
        :least="0"
        :most="400"
        class="w-20"
        :aria-label="t('chartSection.widthOfTheChart')"
        :title="t('chartSection.0AllTheRoomThere')"
        :value="mm(chart.width)"
        @write="set(t('chartSection.widthOfTheChart'), { width: ($event * 72) / 25.4 })"
    /></label>
  </SheetSection>
</template>
