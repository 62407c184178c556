<script setup lang="ts">
import { isStatementBlock } from '../../../../core/definition/blocks/statement'
import { isTies } from '../../../../core/definition/blocks/ties'
import { putTieOut, removeTieOut } from '../../../../core/definition/edits/tieOuts'
import { columnName } from '../../../../core/statement/columns'
import type { TieFigure, TieOut, TieOutResult } from '../../../../core/definition/tieOuts'
import { freeId, insertBlock } from '../../../../core/definition/edits/edits'
import { blocksOf } from '../../../../core/definition/walk'
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
const suggestions = computed(() =>
  suggestTieOuts(report.definition!, report.tree?.levels ?? [], report.rows?.records, report.rows?.total === undefined),
)
const resultOf = (id: string) => results.value.find(each => each.id === id)
const print = (text: string | undefined) =>
  text === undefined ? '' : numberFormat('#,##0.00####;−#,##0.00####', report.definition!.language)(parseDecimal(text)!)
function words(figure: TieFigure): string {
  switch (figure.is) {
    case 'formula':
      return figure.formula
    case 'line':
      return `${lineCaption(figure.statement, figure.line)} · ${columnWords(figure.statement, figure.column)}`
    case 'trial':
      return t('reportsIdTieoutPage.inTheBooks', {
        types: figure.types.map(tell).join(', '),
        columnWords: columnWords(figure.statement, figure.column),
      })
    case 'rows':
      return t('reportsIdTieoutPage.linesOf', { table: figure.table })
    case 'total':
      return t('reportsIdTieoutPage.endOf', { table: figure.table, column: figure.column })
  }
}
const blocks = computed(() => report.definition!.layouts.flatMap(blocksOf))
const statements = computed(() => blocks.value.filter(each => isStatementBlock(each)))
function columnWords(statement: string, id: string): string {
  const [base, copy] = id.split('#')
  const column = statements.value.find(each => each.id === statement)?.columns.find(each => each.id === base)
  return column ? `${columnName(column, tell)}${copy ? t('reportsIdTieoutPage.number', { copy }) : ''}` : id
}
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
    const found = await api<TieOutResult[]>('/api/tieouts', {
      method: 'POST',
      body: { definition: report.definition, answers: report.answers },
    })
    if (mine === turn) results.value = found
  } catch (error) {
    if (mine === turn) problem.value = (error as Error).message
  } finally {
    if (mine === turn) checking.value = false
  }
}
watchDebounced(
  () => [JSON.stringify(list.value), report.pinnedAt],
  () => void check(),
  { debounce: 300, immediate: true },
)

function add(tieOut: Omit<TieOut, 'id'>): void {
  report.edit(t('reportsIdTieoutPage.tieOut'), now => putTieOut(now, tieOut))
  chosen.value = list.value.at(-1)!.id
}
const blank = (): Omit<TieOut, 'id'> => ({
  name: 'New tie-out',
  left: { is: 'formula', dataSet: report.definition!.dataSets[0]!.name, formula: '0' },
  right: { is: 'formula', dataSet: report.definition!.dataSets[0]!.name, formula: '0' },
  tolerance: '0',
})
const set = (change: Partial<TieOut>) =>
  report.edit(t('reportsIdTieoutPage.tieOut'), now => putTieOut(now, { ...current.value!, ...change }))
/** Does the layout print them? */
const printed = computed(() => !!report.layout && blocksOf(report.layout).some(each => isTies(each)))
function putOnPage(): void {
  const taken = blocks.value.map(each => each.id)
  report.edit(t('common.tieOutsOnThePage'), now =>
    insertBlock(
      now,
      { kind: 'ties', id: freeId('tieOuts', taken, true), left: 0, width: 0, failedOnly: false, after: 8 },
      { layout: report.layout!.name },
    ),
  )
}
</script>

<template>
  <div class="flex min-h-0 grow">
    <main class="min-w-0 grow overflow-auto p-6" :aria-label="t('reportsIdTieoutPage.tieOuts')">
      <div class="flex items-center gap-3 pb-3">
        <h1 class="font-display text-lg font-semibold">{{ t('reportsIdTieoutPage.tieOuts') }}</h1>
        <span class="text-sm text-muted">{{ t('reportsIdTieoutPage.checkedAtEveryRun') }}</span>
        <UIcon v-if="checking" name="i-lucide-loader-circle" class="size-4 animate-spin text-muted" />
        <UButton
          size="sm"
          variant="outline"
          color="neutral"
          icon="i-lucide-refresh-cw"
          class="ml-auto"
          :disabled="!list.length"
          @click="check"
          >{{ t('reportsIdTieoutPage.checkNow') }}</UButton
        >
        <UButton v-if="list.length && !printed" size="sm" variant="outline" color="neutral" icon="i-lucide-file-check" @click="putOnPage">{{
          t('reportsIdTieoutPage.printThemOnThePage')
        }}</UButton>
        <UButton size="sm" icon="i-lucide-plus" @click="add(blank())">{{ t('reportsIdTieoutPage.tieOut') }}</UButton>
      </div>
      <p v-if="problem" class="pb-3 text-sm text-error" role="alert">{{ tell(problem) }}</p>
      <div v-if="list.length" class="overflow-hidden rounded-lg border border-default bg-default">
        <table class="w-full text-sm">
          <thead>
            <tr class="border-b border-default text-left text-muted">
              <th class="w-8" />
              <th class="px-3 py-2 font-medium">{{ t('reportsIdTieoutPage.mustBeEqual') }}</th>
              <th class="px-3 py-2 text-right font-medium">{{ t('reportsIdTieoutPage.left') }}</th>
              <th class="px-3 py-2 text-right font-medium">{{ t('reportsIdTieoutPage.right') }}</th>
              <th class="px-3 py-2 text-right font-medium">{{ t('common.difference') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="each in list"
              :key="each.id"
              class="cursor-pointer border-b border-default last:border-0 hover:bg-elevated"
              :class="chosen === each.id ? 'bg-petrol-50 dark:bg-petrol-950' : ''"
              :data-tie="each.name"
              @click="chosen = each.id"
            >
              <td class="pl-3">
                <UIcon
                  v-if="resultOf(each.id)"
                  :name="resultOf(each.id)!.holds ? 'i-lucide-check' : 'i-lucide-x'"
                  class="size-4"
                  :class="resultOf(each.id)!.holds ? 'text-success' : 'text-error'"
                  :aria-label="resultOf(each.id)!.holds ? t('reportsIdTieoutPage.holds') : t('reportsIdTieoutPage.fails')"
                />
              </td>
              <td class="px-3 py-2">
                <button class="font-medium" @click.stop="chosen = each.id">{{ each.name }}</button>
                <div class="font-mono text-xs text-muted">{{ words(each.left) }} = {{ words(each.right) }}</div>
                <div v-if="resultOf(each.id)?.sentence" class="text-xs text-error">{{ resultOf(each.id)!.sentence }}</div>
              </td>
              <td class="px-3 py-2 text-right tabular-nums">{{ print(resultOf(each.id)?.left) }}</td>
              <td class="px-3 py-2 text-right tabular-nums">{{ print(resultOf(each.id)?.right) }}</td>
              <td
                class="px-3 py-2 text-right tabular-nums"
                :class="resultOf(each.id)?.holds === false ? 'font-semibold text-error' : 'text-muted'"
              >
                {{ print(resultOf(each.id)?.difference) }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else class="rounded-lg border border-dashed border-default p-6 text-muted">
        {{ t('reportsIdTieoutPage.nothingIsHeldAgainstAnything') }}
      </p>
      <section v-if="suggestions.length" class="pt-6" :aria-label="t('reportsIdTieoutPage.suggestions')">
        <h2 class="pb-2 text-sm font-semibold text-muted">{{ t('reportsIdTieoutPage.suggestedForThisReport') }}</h2>
        <ul class="space-y-1">
          <li
            v-for="each in suggestions"
            :key="each.name + JSON.stringify(each.left)"
            class="flex items-center gap-3 rounded-md border border-default bg-default px-3 py-1.5 text-sm"
          >
            <span class="font-medium">{{ tell(each.name) }}</span><span class="truncate font-mono text-xs text-muted"
              >{{ words(each.left) }} = {{ words(each.right) }}</span
            ><UButton
              size="xs"
              variant="outline"
              icon="i-lucide-plus"
              class="ml-auto shrink-0"
              :aria-label="t('reportsIdTieoutPage.add', { name: tell(each.name) })"
              @click="add({ ...each, name: tell(each.name) })"
              >{{ t('common.add') }}</UButton
            >
          </li>
        </ul>
      </section>
    </main>
    <aside
      v-if="current"
      class="bar w-[340px] shrink-0 overflow-auto border-l border-default p-4 text-sm"
      :aria-label="t('reportsIdTieoutPage.thisTieOut')"
    >
      <div class="flex items-center justify-between pb-2">
        <h2 class="font-display text-base font-semibold">{{ t('reportsIdTieoutPage.thisTieOut') }}</h2>
        <UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-x" :aria-label="t('common.close')" @click="chosen = ''" />
      </div>
      <label class="block pb-2"
        ><span class="text-muted">{{ t('common.name') }}</span
        ><TextField class="mt-0.5 w-full" :value="current.name" @write="set({ name: $event })"
      /></label>
      <TieFigureField
        v-for="side in ['left', 'right'] as const"
        :key="side"
        :figure="current[side]"
        :side="side"
        :title="side === 'left' ? t('reportsIdTieoutPage.thisFigure') : t('reportsIdTieoutPage.equalsThisFigure')"
        @set="figure => set({ [side]: figure })"
      />
      <label class="flex items-center justify-between gap-2 pb-3"
        ><span class="text-muted">{{ t('reportsIdTieoutPage.mayDifferBy') }}</span
        ><TextField
          class="w-24"
          :value="current.tolerance"
          @write="/^\d+(\.\d+)?$/.test($event.trim()) && set({ tolerance: $event.trim() })"
      /></label>
      <UButton
        size="xs"
        variant="outline"
        color="error"
        icon="i-lucide-trash-2"
        @click="
          () => {
            report.edit(t('reportsIdTieoutPage.deleteTieOut'), now => removeTieOut(now, current!.id))
            chosen = ''
          }
        "
        >{{ t('reportsIdTieoutPage.deleteTieOut') }}</UButton
      >
    </aside>
  </div>
</template>
