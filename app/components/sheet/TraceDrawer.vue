<script setup lang="ts">
import { tickedFields } from '../../../core/model/levels'
import { numberFormat } from '../../../core/value/numberFormat'
import { add, type Decimal, parseDecimal } from '../../../core/value/decimal'

/** The records behind the selected figure, each with what it adds, and their sum. */
const report = useReport()
const sheet = useSheet()
const emit = defineEmits<{ close: [] }>()
const print = numberFormat('#,##0.00####', 'en')
const lists = computed(() =>
  (sheet.traced ?? []).map(traced => {
    const level = report.tree!.levels[traced.level]!
    const records = report.rows!.records.levels[traced.level]!
    const own = tickedFields(level.definition)
      .flatMap(path => level.fields.get(path) ?? [])
      .filter(field => field.path in records.columns)
    const keys = level.key.flatMap(path => level.fields.get(path) ?? []).filter(field => field.path in records.columns)
    const fields = [...keys, ...own.filter(field => !keys.includes(field))].slice(0, 5)
    const sum =
      traced.formula === 'sum' || traced.formula === 'average'
        ? traced.values.reduce<Decimal>((all, value) => add(all, parseDecimal(value) ?? { units: 0, scale: 0 }), { units: 0, scale: 0 })
        : undefined
    return { ...traced, level, fields, sum }
  }),
)
const cell = (level: number, path: string, row: number) => {
  const field = report.tree!.levels[level]!.fields.get(path)!
  return fieldText(field, cellOf(report.rows!.records, level, path, row), report.definition!.language)
}
</script>

<template>
  <section
    class="bar max-h-64 shrink-0 overflow-auto border-t border-default px-4 py-2 text-sm"
    aria-label="Trace"
    data-trace
    @keydown.esc.stop="emit('close')"
  >
    <div class="flex items-center gap-3">
      <h3 class="font-semibold">Behind this figure</h3>
      <span class="text-muted">of the pinned rows</span
      ><UButton class="ml-auto" size="xs" variant="outline" color="neutral" :to="`/reports/${report.id}/data`">Open in Data</UButton
      ><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-x" aria-label="Close the trace" @click="emit('close')" />
    </div>
    <p v-if="sheet.traced && !lists.length" class="text-muted">
      This cell shows values of its own record; no other records stand behind it.
    </p>
    <div v-for="(list, index) in lists" :key="index" :style="{ '--level': levelColour(list.level.index) }">
      <p class="flex items-center gap-2 py-1">
        <span class="level-mark" />{{ list.formula }} of {{ counted(list.count, list.level.caption)
        }}<template v-if="list.rows.length < list.count">, the first {{ list.rows.length }} shown</template
        ><strong v-if="list.sum" class="ml-2" data-trace-sum>add up to {{ print(list.sum) }}</strong>
      </p>
      <table class="text-[13px]">
        <thead>
          <tr class="text-left text-muted">
            <th v-for="field in list.fields" :key="field.path" class="pr-5 font-normal">{{ fieldTitle(field) }}</th>
            <th class="pr-5 text-right font-normal">adds</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, at) in list.rows" :key="row">
            <td
              v-for="field in list.fields"
              :key="field.path"
              class="max-w-64 truncate pr-5"
              :class="field.type === 'number' ? 'text-right' : ''"
            >
              {{ cell(list.level.index, field.path, row) }}
            </td>
            <td class="pr-5 text-right">
              {{ list.values[at] ? (parseDecimal(list.values[at]!) ? print(parseDecimal(list.values[at]!)!) : list.values[at]) : '✓' }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
