<script setup lang="ts">
import { seriesColours } from '../../../core/compose/chart'
import { columnName, holdsFigures } from '../../../core/statement/columns'
import { changeChart, drawnLines } from '../../../core/definition/edits/chart'
import { blocksOf } from '../../../core/definition/walk'
import type { ChartBlock, ChartSeries } from '../../../core/definition/blocks/chart'
import { isStatementBlock, type StatementBlock } from '../../../core/definition/blocks/statement'

/** The selected chart: which lines of which statement it draws, and how. */
const { report, chart } = useSheetSelection()
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
const forms = { bars: 'bars side by side', stacked: 'bars on one another', lines: 'lines', areas: 'areas' } as const
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
    <label v-if="statements.length > 1 || !statement" class="flex items-center justify-between gap-2"
      ><span class="text-muted">Statement</span
      ><PickField
        class="w-40"
        aria-label="Statement that is drawn"
        :value="chart.statement"
        @pick="set('Statement of the chart', { statement: $event, series: [], columns: undefined } as never)"
      >
        <option v-if="!statement" :value="chart.statement">{{ chart.statement }} (gone)</option>
        <option v-for="each in statements" :key="each.id" :value="each.id">{{ each.id }}</option>
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
        <option v-for="(words, form) in forms" :key="form" :value="form">{{ words }}</option>
      </PickField></label
    >
    <div class="space-y-1">
      <span class="text-muted">Lines</span>
      <div v-for="(each, place) in chart.series" :key="each.line" class="flex items-center gap-1">
        <input
          type="color"
          class="size-6 shrink-0 cursor-pointer rounded border border-default bg-transparent"
          :value="each.colour ?? seriesColours[place % seriesColours.length]"
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
    <div class="space-y-0.5">
      <span class="text-muted">Columns</span>
      <label v-for="column in columns" :key="column.id" class="flex items-center gap-2"
        ><input type="checkbox" class="accent-petrol-700" :checked="chosen(column.id)" @change="tick(column.id, on($event))" />
        {{ columnName(column) }}</label
      >
    </div>
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="accent-petrol-700" :checked="chart.legend" @change="set('Legend', { legend: on($event) })" /> Names of
      the lines</label
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
