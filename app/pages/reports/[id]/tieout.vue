<script setup lang="ts">
import { putTieOut, removeTieOut } from '../../../../core/definition/tieOuts'
import type { TieFigure, TieOut } from '../../../../core/definition/tieOutTypes'
import { blocksOf } from '../../../../core/definition/layout'
import type { TieOutResult } from '../../../../core/tieout/check'
import { suggestTieOuts } from '../../../../core/tieout/suggest'
import { parseDecimal } from '../../../../core/value/decimal'
import { numberFormat } from '../../../../core/value/numberFormat'

/** Equalities that must hold at every run: each with both its figures and their difference. */
const report = useReport()
const results = shallowRef<TieOutResult[]>([])
const checking = ref(false)
const problem = ref('')
const chosen = ref('')
const list = computed(() => report.definition!.tieOuts ?? [])
const current = computed(() => list.value.find(each => each.id === chosen.value))
const suggestions = computed(() => suggestTieOuts(report.definition!, report.tree?.levels ?? [], report.rows?.total === undefined ? undefined : report.rows.records))
const resultOf = (id: string) => results.value.find(each => each.id === id)
const print = (text: string | undefined) => text === undefined ? '' : numberFormat('#,##0.00####;−#,##0.00####', report.definition!.language)(parseDecimal(text)!)
const words = (figure: TieFigure) => figure.is === 'formula' ? figure.formula : figure.is === 'line' ? `${lineCaption(figure.statement, figure.line)} · ${figure.column}` : `end of ${figure.table} · ${figure.column}`
const blocks = computed(() => report.definition!.layouts.flatMap(blocksOf))
const statements = computed(() => blocks.value.filter(each => each.kind === 'statement'))
const tables = computed(() => blocks.value.filter(each => each.kind === 'table'))
function lineCaption(statement: string, line: string): string {
  return statements.value.find(each => each.id === statement)?.lines.find(each => each.id === line)?.caption || line
}

let turn = 0
async function check(): Promise<void> {
  const mine = ++turn
  if (!list.value.length) {
    results.value = []
    return
  }
  checking.value = true
  problem.value = ''
  try {
    const found = await api<TieOutResult[]>('/api/tieouts', { method: 'POST', body: { definition: report.definition, answers: report.answers } })
    if (mine === turn) results.value = found
  } catch (error) {
    if (mine === turn) problem.value = (error as Error).message
  } finally {
    if (mine === turn) checking.value = false
  }
}
watchDebounced(() => [JSON.stringify(list.value), report.pinnedAt], () => void check(), { debounce: 300, immediate: true })

function add(tieOut: Omit<TieOut, 'id'>): void {
  report.edit('Tie-out', now => putTieOut(now, tieOut))
  chosen.value = list.value.at(-1)!.id
}
const blank = (): Omit<TieOut, 'id'> => ({ name: 'New tie-out', left: { is: 'formula', dataSet: report.definition!.dataSets[0]!.name, formula: '0' }, right: { is: 'formula', dataSet: report.definition!.dataSets[0]!.name, formula: '0' }, tolerance: '0' })
const set = (change: Partial<TieOut>) => report.edit('Tie-out', now => putTieOut(now, { ...current.value!, ...change }))
function turnInto(side: 'left' | 'right', is: TieFigure['is']): void {
  const [statement] = statements.value
  const [table] = tables.value
  if (is === 'line' && statement) set({ [side]: { is, statement: statement.id, line: statement.lines.find(each => each.kind === 'sum' || each.kind === 'accounts' || each.kind === 'formula')?.id ?? '', column: statement.columns[0]!.id } })
  else if (is === 'total' && table) set({ [side]: { is, table: table.id, column: table.columns.at(-1)!.id } })
  else set({ [side]: { is: 'formula', dataSet: report.definition!.dataSets[0]!.name, formula: '0' } })
}
const value = (event: Event) => (event.target as HTMLInputElement).value
const columnItems = (id: string) => statements.value.find(each => each.id === id)?.columns.flatMap(column => column.repeat && !['branch', 'department'].includes(column.repeat.over) ? Array.from({ length: column.repeat.count ?? 12 }, (_, index) => `${column.id}#${index + 1}`) : [column.id]) ?? []
</script>

<template>
  <div class="flex min-h-0 grow">
    <main class="min-w-0 grow overflow-auto p-6" aria-label="Tie-outs">
      <div class="flex items-center gap-3 pb-3"><h1 class="font-display text-lg font-semibold">Tie-outs</h1><span class="text-sm text-muted">checked at every run</span>
        <UIcon v-if="checking" name="i-lucide-loader-circle" class="size-4 animate-spin text-muted" />
        <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-refresh-cw" class="ml-auto" :disabled="!list.length" @click="check">Check now</UButton>
        <UButton size="sm" icon="i-lucide-plus" @click="add(blank())">Tie-out</UButton>
      </div>
      <p v-if="problem" class="pb-3 text-sm text-error" role="alert">{{ problem }}</p>
      <div v-if="list.length" class="overflow-hidden rounded-lg border border-default bg-default">
        <table class="w-full text-sm">
          <thead><tr class="border-b border-default text-left text-muted"><th class="w-8" /><th class="px-3 py-2 font-medium">Must be equal</th><th class="px-3 py-2 text-right font-medium">Left</th><th class="px-3 py-2 text-right font-medium">Right</th><th class="px-3 py-2 text-right font-medium">Difference</th></tr></thead>
          <tbody>
            <tr v-for="each in list" :key="each.id" class="cursor-pointer border-b border-default last:border-0 hover:bg-elevated" :class="chosen === each.id ? 'bg-petrol-50 dark:bg-petrol-950' : ''" :data-tie="each.name" @click="chosen = each.id">
              <td class="pl-3"><UIcon v-if="resultOf(each.id)" :name="resultOf(each.id)!.holds ? 'i-lucide-check' : 'i-lucide-x'" class="size-4" :class="resultOf(each.id)!.holds ? 'text-success' : 'text-error'" :aria-label="resultOf(each.id)!.holds ? 'holds' : 'fails'" /></td>
              <td class="px-3 py-2"><button class="font-medium" @click.stop="chosen = each.id">{{ each.name }}</button><div class="font-mono text-xs text-muted">{{ words(each.left) }} = {{ words(each.right) }}</div><div v-if="resultOf(each.id)?.sentence" class="text-xs text-error">{{ resultOf(each.id)!.sentence }}</div></td>
              <td class="px-3 py-2 text-right tabular-nums">{{ print(resultOf(each.id)?.left) }}</td><td class="px-3 py-2 text-right tabular-nums">{{ print(resultOf(each.id)?.right) }}</td>
              <td class="px-3 py-2 text-right tabular-nums" :class="resultOf(each.id)?.holds === false ? 'font-semibold text-error' : 'text-muted'">{{ print(resultOf(each.id)?.difference) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else class="rounded-lg border border-dashed border-default p-6 text-muted">Nothing is held against anything yet. Take a suggestion below, or add a tie-out: two figures that must be equal, such as the total of this schedule and the balance of its control account.</p>
      <section v-if="suggestions.length" class="pt-6" aria-label="Suggestions"><h2 class="pb-2 text-sm font-semibold text-muted">Suggested for this report</h2>
        <ul class="space-y-1"><li v-for="each in suggestions" :key="each.name + JSON.stringify(each.left)" class="flex items-center gap-3 rounded-md border border-default bg-default px-3 py-1.5 text-sm"><span class="font-medium">{{ each.name }}</span><span class="truncate font-mono text-xs text-muted">{{ words(each.left) }} = {{ words(each.right) }}</span><UButton size="xs" variant="outline" icon="i-lucide-plus" class="ml-auto shrink-0" :aria-label="`Add ${each.name}`" @click="add(each)">Add</UButton></li></ul>
      </section>
    </main>
    <aside v-if="current" class="bar w-[340px] shrink-0 overflow-auto border-l border-default p-4 text-sm" aria-label="This tie-out">
      <div class="flex items-center justify-between pb-2"><h2 class="font-display text-base font-semibold">This tie-out</h2><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-x" aria-label="Close" @click="chosen = ''" /></div>
      <label class="block pb-2"><span class="text-muted">Name</span><input class="mt-0.5 w-full rounded-md border border-default bg-default px-2 py-1" :value="current.name" @change="set({ name: value($event) })"></label>
      <fieldset v-for="side in (['left', 'right'] as const)" :key="side" class="mb-3 space-y-1.5 rounded-md border border-default p-3"><legend class="px-1 font-semibold">{{ side === 'left' ? 'This figure' : 'equals this figure' }}</legend>
        <select class="w-full rounded-md border border-default bg-default px-1 py-1" :aria-label="`Kind of the ${side} figure`" :value="current[side].is" @change="turnInto(side, value($event) as 'line')"><option value="formula">a formula over a data set</option><option v-if="statements.length" value="line">a line of a statement</option><option v-if="tables.length" value="total">a total on the layout</option></select>
        <template v-if="current[side].is === 'formula'">
          <select class="w-full rounded-md border border-default bg-default px-1 py-1" aria-label="Data set" :value="current[side].dataSet" @change="set({ [side]: { ...current![side], dataSet: value($event) } })"><option v-for="each in report.definition!.dataSets" :key="each.name" :value="each.name">{{ each.name }}</option></select>
          <textarea rows="2" class="w-full rounded-md border border-default bg-default px-2 py-1 font-mono text-xs" :aria-label="`Formula of the ${side} figure`" :value="current[side].formula" @change="set({ [side]: { ...current![side], formula: value($event).trim() || '0' } })" />
        </template>
        <template v-else-if="current[side].is === 'line'">
          <select class="w-full rounded-md border border-default bg-default px-1 py-1" aria-label="Line" :value="current[side].line" @change="set({ [side]: { ...current![side], line: value($event) } })"><option v-for="each in statements.find(block => block.id === (current![side] as { statement: string }).statement)?.lines.filter(line => line.kind === 'accounts' || line.kind === 'sum' || line.kind === 'formula')" :key="each.id" :value="each.id">{{ each.caption || each.id }}</option></select>
          <select class="w-full rounded-md border border-default bg-default px-1 py-1" aria-label="Column" :value="current[side].column" @change="set({ [side]: { ...current![side], column: value($event) } })"><option v-for="each in columnItems(current[side].statement)" :key="each" :value="each">{{ each }}</option></select>
        </template>
        <template v-else>
          <select class="w-full rounded-md border border-default bg-default px-1 py-1" aria-label="Table" :value="current[side].table" @change="set({ [side]: { is: 'total', table: value($event), column: tables.find(each => each.id === value($event))!.columns.at(-1)!.id } })"><option v-for="each in tables" :key="each.id" :value="each.id">{{ each.id }}</option></select>
          <select class="w-full rounded-md border border-default bg-default px-1 py-1" aria-label="Column of the table" :value="current[side].column" @change="set({ [side]: { ...current![side], column: value($event) } })"><option v-for="each in tables.find(block => block.id === (current![side] as { table: string }).table)?.columns" :key="each.id" :value="each.id">{{ each.id }}</option></select>
        </template>
      </fieldset>
      <label class="flex items-center justify-between gap-2 pb-3"><span class="text-muted">May differ by</span><input class="w-24 rounded-md border border-default bg-default px-2 py-1 text-right" :value="current.tolerance" @change="/^\d+(\.\d+)?$/.test(value($event).trim()) ? set({ tolerance: value($event).trim() }) : ($event.target as HTMLInputElement).value = current!.tolerance"></label>
      <UButton size="xs" variant="outline" color="error" icon="i-lucide-trash-2" @click="report.edit('Delete tie-out', now => removeTieOut(now, current!.id)); chosen = ''">Delete tie-out</UButton>
    </aside>
  </div>
</template>
