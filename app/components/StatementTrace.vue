<script setup lang="ts">
import type { ReportDefinition } from '../../core/definition/report'
import { add, parseDecimal, subtract, zero } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'

/** A figure of a statement followed back: its accounts, their journal lines with a running sum, and the documents these came from. */
interface Traced {
  figure: string
  words: string
  sides?: { column: string; words: string }[]
  accounts: { code: string; name: string; amount: string }[]
  columns: string[]
  document: number
  lines: { cells: string[]; debit: string; credit: string }[]
  count: number
  total: string
  changed?: true
}
const {
  report = '',
  run = '',
  definition,
  answers,
  statement,
  line,
  column,
  account = '',
  caption,
} = defineProps<{
  report?: string
  /** a run that is kept, whose figure it is */
  run?: string
  definition?: ReportDefinition | undefined
  answers: Record<string, string>
  statement: string
  line: string
  column: string
  account?: string
  caption: string
}>()
const emit = defineEmits<{ close: [] }>()
const traced = shallowRef<Traced>()
const problem = ref('')
const chosen = ref('')
/** of a difference: which of its two columns is looked at */
const side = ref('')
const sides = shallowRef<NonNullable<Traced['sides']>>([])
/** number of the document that is looked at */
const opened = ref('')
let turn = 0
async function read(): Promise<void> {
  const mine = ++turn
  problem.value = ''
  const own = account || chosen.value
  try {
    const found = await api<Traced>('/api/trace', {
      method: 'POST',
      body: {
        ...(definition ? { definition } : { report }),
        answers,
        statement,
        line,
        column: side.value || column,
        ...(own ? { account: own } : {}),
        ...(run ? { run } : {}),
      },
    })
    if (mine !== turn) return
    // the accounts stay in sight while one of them is looked into
    if (!side.value) sides.value = found.sides ?? []
    traced.value = chosen.value && traced.value ? { ...found, accounts: traced.value.accounts } : found
  } catch (error) {
    if (mine === turn) problem.value = (error as Error).message
  }
}
watch(
  () => [statement, line, column, account],
  () => {
    chosen.value = opened.value = side.value = ''
    sides.value = []
    traced.value = undefined
    void read()
  },
  { immediate: true },
)
function look(at: string): void {
  side.value = at
  opened.value = ''
  if (chosen.value) chosen.value = ''
  else void read()
}
watch(chosen, () => {
  opened.value = ''
  void read()
})
const print = (text: string) => numberFormat('#,##0.00;−#,##0.00;–', locale())(parseDecimal(text)!)
/** Running sum of debits − credits, from the earliest of the lines shown: what came before them stands below. */
const running = computed(() => {
  let sum = parseDecimal(traced.value?.total ?? '0')!
  return (traced.value?.lines ?? []).map(each => {
    const after = sum
    sum = subtract(sum, subtract(parseDecimal(each.debit)!, parseDecimal(each.credit)!))
    return after
  })
})
const shown = computed(() =>
  (traced.value?.lines ?? []).reduce((sum, each) => add(sum, subtract(parseDecimal(each.debit)!, parseDecimal(each.credit)!)), zero),
)
const format = numberFormat('#,##0.00;−#,##0.00;–', locale())
</script>

<template>
  <section
    class="bar max-h-72 shrink-0 overflow-auto border-t border-default px-4 py-2 text-sm"
    :aria-label="t('common.trace')"
    data-statement-trace
    @keydown.esc.stop="emit('close')"
  >
    <div class="flex items-center gap-3 pb-1">
      <h3 class="font-semibold">
        {{ caption
        }}<template v-if="chosen && traced"> · {{ chosen }} {{ traced.accounts.find(each => each.code === chosen)?.name }}</template
        ><template v-if="traced"> · {{ traced.words }}</template>
      </h3>
      <strong v-if="traced" data-trace-figure>{{ print(traced.figure) }}</strong><span
        v-if="sides.length"
        class="flex gap-1"
        role="group"
        :aria-label="t('statementTrace.whichSideOfTheDifference')"
        ><UButton
          v-for="(each, index) in sides"
          :key="each.column"
          size="xs"
          :variant="(side || sides[0]!.column) === each.column ? 'soft' : 'ghost'"
          color="neutral"
          :aria-pressed="(side || sides[0]!.column) === each.column"
          @click="look(each.column)"
          >{{ index ? t('statementTrace.against') : t('statementTrace.of') }} {{ each.words }}</UButton
        ></span
      ><UButton
        class="ml-auto"
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :aria-label="t('statementTrace.closeTheTrace')"
        @click="emit('close')"
      />
    </div>
    <p v-if="problem" class="text-error" role="alert">{{ tell(problem) }}</p>
    <p v-else-if="!traced" class="text-muted">{{ t('statementTrace.readingTheJournals') }}</p>
    <p v-else-if="!traced.accounts.length" class="text-muted">{{ t('statementTrace.noAccountHasAFigure') }}</p>
    <div v-else class="flex gap-6">
      <table class="h-fit w-72 shrink-0 text-[13px]" data-trace-accounts>
        <thead>
          <tr class="text-left text-muted">
            <th class="font-normal">{{ t('common.account') }}</th>
            <th class="text-right font-normal">{{ t('statementTrace.brings') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="each in traced.accounts"
            :key="each.code"
            class="cursor-pointer hover:bg-elevated"
            :class="chosen === each.code ? 'bg-petrol-50 dark:bg-petrol-950' : ''"
            @click="chosen = chosen === each.code ? '' : each.code"
          >
            <td class="max-w-48 truncate pr-4">
              <button>{{ each.code }} {{ each.name }}</button>
            </td>
            <td class="text-right tabular-nums">{{ print(each.amount) }}</td>
          </tr>
        </tbody>
      </table>
      <StatementDocument v-if="opened" :number="opened" @back="opened = ''" />
      <div v-else-if="traced.count" class="min-w-0 grow">
        <p class="text-muted">
          {{ t('statementTrace.journal', { count: grouped(traced.count), what: t('statementTrace.lineLines', traced.count) })
          }}<template v-if="traced.lines.length < traced.count">{{
            t('statementTrace.theLatestShown', { count: traced.lines.length })
          }}</template
          >{{ t('statementTrace.debitsCredits') }}
          <strong class="text-default" data-trace-total>{{ print(traced.total) }}</strong>
        </p>
        <p v-if="traced.changed" class="text-warning" data-trace-changed>
          {{ t('statementTrace.theBooksHaveChangedSince') }}
        </p>
        <table class="w-full text-[13px]" data-trace-lines>
          <thead>
            <tr class="text-left text-muted">
              <th v-for="each in traced.columns" :key="each" class="pr-4 font-normal">{{ each }}</th>
              <th class="pr-4 text-right font-normal">{{ t('statementTrace.debit') }}</th>
              <th class="pr-4 text-right font-normal">{{ t('statementTrace.credit') }}</th>
              <th class="text-right font-normal">{{ t('statementTrace.running') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(each, index) in traced.lines" :key="index">
              <td v-for="(cell, at) in each.cells" :key="at" class="max-w-56 truncate pr-4">
                <button
                  v-if="at === traced.document && cell"
                  class="text-petrol-700 underline decoration-dotted underline-offset-2 dark:text-petrol-300"
                  :title="t('statementTrace.openThisDocument')"
                  @click="opened = cell"
                >
                  {{ cell }}</button><template v-else>{{ cell }}</template>
              </td>
              <td class="pr-4 text-right tabular-nums">{{ print(each.debit) }}</td>
              <td class="pr-4 text-right tabular-nums">{{ print(each.credit) }}</td>
              <td class="text-right tabular-nums">{{ format(running[index]!) }}</td>
            </tr>
            <tr v-if="traced.lines.length < traced.count" class="text-muted">
              <td :colspan="traced.columns.length + 2">{{ t('statementTrace.beforeTheseLines') }}</td>
              <td class="text-right tabular-nums">{{ format(subtract(parseDecimal(traced.total)!, shown)) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
  </section>
</template>
