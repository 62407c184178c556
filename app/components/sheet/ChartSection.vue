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
const forms = computed(() => Object.entries(chartWords).filter(([form]) => statement.value === undefined || form !== 'points'))
/** What can be drawn: statements, crosstabs and tables of the layout, and levels. */
const blocks = computed(() =>
  blocksOf(report.layout!).filter((block): block is CrosstabBlock | TableBlock => isCrosstab(block) || isTable(block)),
)
const sources = computed(() => [
  ...statements.value.map(each => ({ value: `statement ${each.id}`, label: `statement ${each.id}` })),
  ...blocks.value.map(each => ({ value: `of ${each.id}`, label: `${each.kind} ${each.id}` })),
  ...report.tree!.levels.map(level => ({ value: `level ${level.name}`, label: `${level.caption.toLowerCase()}, in groups` })),
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
  if (drawn) report.edit('What the chart draws', now => changeChart(now, chart.value!.id, each => drawnFrom(each, drawn, levels)))
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
  set('Columns of the chart', { columns: next.length && next.length < drawable.value.length ? next : undefined } as never)
}
const axis = (change: Partial<NonNullable<ChartBlock['axis']>>) => {
  const next = Object.fromEntries(
    Object.entries({ ...chart.value!.axis, ...change }).filter(([, each]) => each !== undefined && each !== false),
  )
  set('Axis of the chart', { axis: Object.keys(next).length ? next : undefined } as never)
}
const endOf = (text: string) => (text.trim() === '' || !Number.isFinite(Number(text)) ? undefined : Number(text))
const seriesForms = { bars: 'bars', lines: 'line', areas: 'area' } as const
const change = (place: number, more: Partial<ChartSeries>) =>
  set('Line of the chart', {
    series: chart.value!.series.map((each, index) =>
      index === place
        ? (Object.fromEntries(Object.entries({ ...each, ...more }).filter(([, own]) => own)) as unknown as ChartSeries)
        : each,
    ),
  })
function tick(id: string, ticked: boolean): void {
  const next = columns.value.map(column => column.id).filter(each => (each === id ? ticked : chosen(each)))
  set('Columns of the chart', { columns: next.length ? next : undefined } as never)
}
const mm = (points: number) => Math.round((points / 72) * 254) / 10
</script>

<template>
  <SheetSection v-if="chart" title="What is drawn">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">From</span
      ><PickField class="w-44" aria-label="What the chart draws" :value="source" @pick="draw($event)">
        <option v-if="!sources.some(each => each.value === source)" :value="source">{{ source }} (gone)</option>
        <option v-for="each in sources" :key="each.value" :value="each.value">{{ each.label }}</option>
      </PickField></label
    >
    <label class="block"
      ><span class="text-muted">Title</span
      ><TextField
        class="mt-0.5 w-full"
        :value="chart.title ?? ''"
        placeholder="none"
        aria-label="Title of the chart"
        @write="set('Title of the chart', { title: $event.trim() || undefined } as never)"
    /></label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">Drawn as</span
      ><PickField
        class="w-40"
        aria-label="Form of the chart"
        :value="chart.form"
        @pick="set('Form of the chart', { form: $event as 'bars' })"
      >
        <option v-for="[form, words] in forms" :key="form" :value="form">{{ words }}</option>
      </PickField></label
    >
    <label v-if="['bars', 'stacked', 'shares'].includes(chart.form)" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!chart.lying"
        @change="set('Lying bars', { lying: on($event) || undefined } as never)"
      />
      Lying, names at the left</label
    >
    <SheetChartSource v-if="chart.level !== undefined" />
    <div v-if="drawable.length > 1" class="space-y-0.5">
      <span class="text-muted">Figures</span>
      <label v-for="each in drawable" :key="each.id" class="flex items-center gap-2"
        ><input type="checkbox" class="accent-petrol-700" :checked="isDrawn(each.id)" @change="tickDrawn(each.id, on($event))" />
        {{ each.name }}</label
      >
    </div>
    <div v-if="statement" class="space-y-1">
      <span class="text-muted">Lines</span>
      <div v-for="(each, place) in chart.series" :key="each.line" class="flex items-center gap-1">
        <input
          type="color"
          class="size-6 shrink-0 cursor-pointer rounded border border-default bg-transparent"
          :value="each.colour ?? seriesColour(place)"
          :aria-label="`Colour of ${each.line}`"
          @change="change(place, { colour: value($event) })"
        />
        <span class="min-w-0 grow truncate" :title="each.line">{{ lines.find(line => line.id === each.line)?.caption || each.line }}</span>
        <PickField
          size="xs"
          class="w-16"
          :aria-label="`Form of ${each.line}`"
          :value="each.form ?? ''"
          @pick="change(place, { form: ($event || undefined) as never })"
        >
          <option value="">same</option>
          <option v-for="(words, form) in seriesForms" :key="form" :value="form">{{ words }}</option>
        </PickField>
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="`Take ${each.line} out of the chart`"
          @click="set('Line of the chart', { series: chart!.series.filter(own => own.line !== each.line) })"
        />
      </div>
      <PickField
        v-if="left.length"
        size="xs"
        class="w-full"
        aria-label="Draw another line"
        @pick="set('Line of the chart', { series: [...chart!.series, { line: $event }] })"
      >
        <option value="">Draw another line …</option>
        <option v-for="line in left" :key="line.id" :value="line.id">{{ line.caption || line.id }}</option>
      </PickField>
    </div>
    <div v-if="statement" class="space-y-0.5">
      <span class="text-muted">Columns</span>
      <label v-for="column in columns" :key="column.id" class="flex items-center gap-2"
        ><input type="checkbox" class="accent-petrol-700" :checked="chosen(column.id)" @change="tick(column.id, on($event))" />
        {{ columnName(column) }}</label
      >
    </div>
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="accent-petrol-700" :checked="chart.legend" @change="set('Legend', { legend: on($event) })" /> Names of
      the series</label
    >
    <label v-if="chart.form === 'lines' && chart.legend" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!chart.atEnds"
        @change="set('Names at the ends', { atEnds: on($event) || undefined } as never)"
      />
      … at the ends of the lines</label
    >
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="chart.figures"
        @change="set('Figures of the chart', { figures: on($event) })"
      />
      Figures at the marks</label
    >
    <details class="rounded-md border border-default px-2 py-1">
      <summary class="cursor-pointer text-muted">Axis, target, words for screen readers</summary>
      <div class="space-y-2 pt-2">
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="accent-petrol-700" :checked="!!chart.axis?.log" @change="axis({ log: on($event) })" /> By powers of
          ten</label
        >
        <div class="flex items-center justify-between gap-2">
          <span class="text-muted">From, to</span
          ><span class="flex gap-1"
            ><TextField
              class="w-20"
              placeholder="0"
              aria-label="Axis from"
              :value="String(chart.axis?.from ?? '')"
              @write="axis({ from: endOf($event) })" /><TextField
              class="w-20"
              placeholder="highest"
              aria-label="Axis to"
              :value="String(chart.axis?.to ?? '')"
              @write="axis({ to: endOf($event) })"
          /></span>
        </div>
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">Target</span
          ><TextField
            class="w-36"
            placeholder="none, or a formula"
            aria-label="Target line"
            :value="chart.target?.formula ?? ''"
            @write="set('Target line', { target: $event.trim() ? { ...chart!.target, formula: $event.trim() } : undefined } as never)"
        /></label>
        <label v-if="chart.target" class="flex items-center justify-between gap-2"
          ><span class="text-muted">Called</span
          ><TextField
            class="w-36"
            aria-label="Name of the target line"
            :value="chart.target.caption ?? ''"
            @write="
              set('Target line', { target: { formula: chart!.target!.formula, ...($event.trim() ? { caption: $event.trim() } : {}) } })
            "
        /></label>
        <label class="block"
          ><span class="text-muted">What it shows, for those who do not see it</span
          ><TextField
            class="mt-0.5 w-full"
            placeholder="written for you"
            aria-label="Alternative text"
            :value="chart.alternative ?? ''"
            @write="set('Alternative text', { alternative: $event.trim() || undefined } as never)"
        /></label>
      </div>
    </details>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">Height, mm</span
      ><NumberField
        :least="15"
        :most="250"
        class="w-20"
        aria-label="Height of the chart"
        :value="mm(chart.height)"
        @write="set('Height of the chart', { height: Math.max(40, ($event * 72) / 25.4) })"
    /></label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">Width, mm</span
      ><NumberField
        :least="0"
        :most="400"
        class="w-20"
        aria-label="Width of the chart"
        title="0: all the room there is"
        :value="mm(chart.width)"
        @write="set('Width of the chart', { width: ($event * 72) / 25.4 })"
    /></label>
  </SheetSection>
</template>
