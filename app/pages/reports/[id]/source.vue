<script setup lang="ts">
import type { SwapCheck, SwapProof, SwapProposal } from '../../../../core/api/swap'
import { namesOfMatches } from '../../../../core/api/swap'
import type { Catalog } from '../../../../core/books/catalog'
import { answerText, readAnswers } from '../../../../core/parameter/answers'
import { findTable } from '../../../../core/catalog/types'
import { matchColumns, type TableMatch } from '../../../../core/swap/match'

/** Swap source: what the report needs, what it is called in another source, and the proof that both print the same. */
const report = useReport()
const sources = useSources()
const toast = useToast()
useHead({ title: () => t('reportsIdSourcePage.swapSourceEstante', { name: report.name }) })

const own = computed(() => sources.current?.of ?? sources.current?.id)
const others = computed(() => sources.list.filter(each => each.id !== own.value || sources.current?.of))
const fromName = computed(() => sources.all.find(each => each.id === own.value)?.name ?? '')
const to = ref('')
const name = computed(() => sources.list.find(each => each.id === to.value)?.name ?? '')
const proposal = shallowRef<SwapProposal>()
const catalog = shallowRef<Catalog>()
const tables = ref<TableMatch[]>([])
const lacks = ref<string[]>([])
const problem = ref('')
const busy = ref('')
const proof = shallowRef<SwapProof>()
const opened = ref(new Set<string>())
const names = computed(() => namesOfMatches(tables.value))

const path = (rest = '') => `/api/reports/${encodeURIComponent(report.id)}/swap${rest}`
const post = <T,>(rest: string, body: object, signal?: AbortSignal) =>
  api<T>(path(rest), { method: 'POST', body, ...(signal ? { signal } : {}) })

async function propose(id: string): Promise<void> {
  ;[to.value, problem.value, proposal.value, proof.value, tables.value] = [id, '', undefined, undefined, []]
  busy.value = t('reportsIdSourcePage.lookingAtBothSources')
  try {
    await report.save()
    const [found, { problem: _, ...held }] = await Promise.all([
      post<SwapProposal>('/propose', { to: id }),
      api<Catalog & { problem: string }>(`/api/sources/${encodeURIComponent(id)}/catalog`),
    ])
    if (to.value !== id) return
    catalog.value = held
    proposal.value = found
    tables.value = structuredClone(found.tables)
    lacks.value = found.lacks
    opened.value = new Set(found.tables.filter(unsure).map(each => each.table))
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = ''
  }
}
const unsure = (table: TableMatch) => table.sure !== 'sure' || table.columns.some(column => column.sure !== 'sure' || !column.to)
const open = (table: TableMatch) => table.columns.filter(column => !column.to).length

/** Somebody says which table it is: its columns are matched anew. */
function setTable(table: TableMatch, real: string): void {
  const [mine, other] = [findTable(report.catalog!, table.table), catalog.value && findTable(catalog.value, real)]
  const needed = { table: table.table, uses: [], columns: table.columns.map(({ column }) => ({ column, uses: [] })) }
  Object.assign(table, {
    to: other?.name,
    sure: 'sure',
    why: other ? [t('reportsIdSourcePage.chosenByYou')] : [t('reportsIdSourcePage.leftOutByYou')],
    columns:
      mine && other
        ? matchColumns(needed, mine, other)
        : table.columns.map(({ column }) => ({ column, sure: 'unsure' as const, why: [t('reportsIdSourcePage.itsTableIsLeftOut')] })),
  })
  opened.value.add(table.table)
  void check()
}
function setColumn(table: TableMatch, at: number, real: string): void {
  table.columns[at] = {
    column: table.columns[at]!.column,
    sure: 'sure',
    ...(real ? { to: real, why: [t('reportsIdSourcePage.chosenByYou')] } : { why: [t('reportsIdSourcePage.leftOutByYou')] }),
  }
  void check()
}
let turn = 0
async function check(): Promise<void> {
  proof.value = undefined
  const mine = ++turn
  try {
    const { lacks: found } = await post<SwapCheck>('/check', { to: to.value, names: names.value })
    if (mine === turn) [lacks.value, problem.value] = [found, '']
  } catch (error) {
    if (mine === turn) problem.value = (error as Error).message
  }
}

// defaults are shown as answers, so that the form says what is compared
const { values } = readAnswers(report.definition!.parameters, report.answers, {
  today: sources.today,
  language: report.definition!.language,
  ...(report.catalog?.calendar ? { calendar: report.catalog.calendar } : {}),
})
const answers = ref<Record<string, string>>(
  Object.fromEntries(
    report.definition!.parameters.flatMap(each =>
      each.hidden ? [] : [[each.name, report.answers[each.name] ?? answerText(each, values)] as [string, string]],
    ),
  ),
)
const stop = shallowRef<AbortController>()
async function prove(): Promise<void> {
  stop.value = new AbortController()
  ;[busy.value, proof.value, problem.value] = [t('reportsIdSourcePage.runningTheReportOnBoth'), undefined, '']
  try {
    proof.value = await post<SwapProof>('/proof', { to: to.value, names: names.value, answers: answers.value }, stop.value.signal)
  } catch (error) {
    if (!stop.value.signal.aborted) problem.value = (error as Error).message
  } finally {
    busy.value = ''
    stop.value = undefined
  }
}
async function keep(): Promise<void> {
  busy.value = t('reportsIdSourcePage.pointingTheReportThere')
  try {
    await post('', { to: to.value, names: names.value, basedOn: report.version })
    await sources.load()
    await report.takeCurrent()
    toast.add({ title: t('reportsIdSourcePage.nowReadsItsVersionsIn', { name: report.name, value: name.value }), color: 'success' })
    await navigateTo(`/reports/${report.id}/data`)
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = ''
  }
}
const columnsIn = (table: TableMatch) => (catalog.value && table.to && findTable(catalog.value, table.to)?.columns) || []
const matched = computed(() => tables.value.reduce((sum, each) => sum + each.columns.filter(column => column.to).length, 0))
const needed = computed(() => tables.value.reduce((sum, each) => sum + each.columns.length, 0))
const many = (count: number, one: string, more = `${one}s`) => `${grouped(count)} ${count === 1 ? one : more}`
/** an exact number with its digits in groups */
const amount = (text: string) => text.replace(/\d+/, digits => digits.replace(/\B(?=(\d{3})+$)/g, ','))
/** what differs, the first of it */
const differing = computed(() =>
  (proof.value?.changes.rows ?? []).slice(0, 12).map(row => ({
    key: `${row.block} ${row.part} ${row.label} ${row.kind}`,
    label: row.label,
    words:
      row.kind === 'new'
        ? t('reportsIdSourcePage.onlyOn', { value: name.value })
        : row.kind === 'gone'
          ? t('reportsIdSourcePage.onlyOn2', { name: proposal.value?.from.name })
          : row.cells
              .map(cell => {
                const title = proof.value?.changes.titles[row.block]?.[cell.cell] ?? cell.cell
                return `${title}: ${cell.before || '(empty)'} → ${cell.now || '(empty)'}${cell.difference ? ` (${cell.difference})` : ''}`
              })
              .join(' · '),
  })),
)
</script>

<template>
  <div class="flex min-h-0" data-swap>
    <main class="min-w-0 grow overflow-auto px-6 py-4">
      <div class="flex flex-wrap items-end gap-4">
        <div>
          <h1 class="font-display text-xl font-semibold">{{ t('reportsIdSourcePage.swapSource') }}</h1>
          <p class="text-sm text-muted">
            {{ t('reportsIdSourcePage.theReportStaysAsIt') }}
          </p>
        </div>
        <label class="ml-auto flex items-center gap-2 text-sm">
          {{ t('reportsIdSourcePage.fromTo', { fromName }) }}
          <USelect
            :model-value="to"
            :items="others.map(each => ({ label: each.name, value: each.id }))"
            :placeholder="t('reportsIdSourcePage.chooseASource')"
            class="w-64"
            size="sm"
            :aria-label="t('reportsIdSourcePage.theOtherSource')"
            @update:model-value="propose(String($event))"
          />
        </label>
      </div>
      <p v-if="!others.length" class="mt-6 max-w-prose">
        {{ t('reportsIdSourcePage.thereIsNoOtherSource') }}
        <NuxtLink to="/sources" class="font-medium text-primary underline">{{ t('reportsIdSourcePage.addOneUnderSources') }}</NuxtLink>.
      </p>
      <div v-if="busy && !tables.length" class="mt-8 flex items-center gap-2 text-muted" role="status">
        <UIcon name="i-lucide-loader-circle" class="size-4 animate-spin" />{{ busy }}
      </div>
      <div v-if="tables.length" class="mt-4 rounded-md border border-default">
        <section v-for="table in tables" :key="table.table" class="border-b border-default last:border-b-0" :data-match="table.table">
          <div class="flex items-center gap-3 px-3 py-1.5">
            <button
              class="flex w-60 min-w-0 shrink-0 items-center gap-1.5 text-left font-medium"
              :aria-expanded="opened.has(table.table)"
              :disabled="!table.columns.length"
              @click="opened.has(table.table) ? opened.delete(table.table) : opened.add(table.table)"
            >
              <UIcon
                name="i-lucide-chevron-right"
                class="size-3.5 shrink-0 text-dimmed transition-transform"
                :class="[opened.has(table.table) ? 'rotate-90' : '', table.columns.length ? '' : 'invisible']"
              /><span class="truncate">{{ table.table }}</span>
            </button>
            <MatchLine
              :match="table"
              :choices="catalog?.tables ?? []"
              what="table"
              :label="t('reportsIdSourcePage.tableFor', { table: table.table })"
              @choose="setTable(table, $event)"
            />
            <span v-if="open(table)" class="ml-auto shrink-0 text-sm text-apricot-700 dark:text-apricot-300">{{
              t('reportsIdSourcePage.leftOut', { many: many(open(table), 'column') })
            }}</span>
          </div>
          <ul v-if="opened.has(table.table)" class="pb-2">
            <li v-for="(column, at) in table.columns" :key="column.column" class="flex items-center gap-3 px-3 py-0.5 text-sm">
              <span class="w-60 min-w-0 shrink-0 truncate pl-5">{{ column.column }}</span>
              <MatchLine
                :match="column"
                :choices="columnsIn(table)"
                what="column"
                :label="t('reportsIdSourcePage.columnFor', { table: table.table, column: column.column })"
                :disabled="!table.to"
                @choose="setColumn(table, at, $event)"
              />
            </li>
          </ul>
        </section>
      </div>
    </main>
    <aside
      class="flex w-[412px] shrink-0 flex-col gap-4 overflow-auto border-l border-default p-4"
      :aria-label="t('reportsIdSourcePage.proofOfSameness')"
    >
      <template v-if="tables.length">
        <p class="text-sm">
          {{
            t('reportsIdSourcePage.ofAndOfHaveA', {
              many: many(tables.filter(each => each.to).length, 'table'),
              count: tables.length,
              matched: many(matched, 'column'),
              needed: grouped(needed),
            })
          }}
        </p>
        <div v-if="lacks.length" class="space-y-1 rounded-md bg-brick-50 p-3 text-sm dark:bg-brick-950" role="alert" data-lacks>
          <p class="font-semibold">{{ t('reportsIdSourcePage.whatTheReportWillMiss') }}</p>
          <p v-for="sentence in lacks" :key="sentence">{{ tell(sentence) }}</p>
        </div>
        <section class="space-y-3">
          <h2 class="font-display text-base font-semibold">{{ t('reportsIdSourcePage.proofOfSameness') }}</h2>
          <p class="text-sm text-muted">
            {{ t('reportsIdSourcePage.theReportIsRunOn') }}
          </p>
          <AnswerFields
            v-if="report.definition!.parameters.length"
            v-model="answers"
            form
            :parameters="report.definition!.parameters"
            :problems="{}"
            :definition="report.definition!"
            v-bind="report.catalog?.calendar ? { calendar: report.catalog.calendar } : {}"
          />
          <div class="flex items-center gap-2">
            <UButton
              size="sm"
              variant="outline"
              icon="i-lucide-scale"
              :loading="!!stop"
              :disabled="!!lacks.length || !!busy"
              @click="prove"
              >{{ t('reportsIdSourcePage.proveIt') }}</UButton
            >
            <UButton v-if="stop" size="sm" variant="ghost" color="neutral" @click="stop.abort()">{{ t('common.stop') }}</UButton>
            <span v-if="busy" class="text-sm text-muted" role="status">{{ busy }}</span>
          </div>
          <div v-if="proof" class="rounded-md border p-3 text-sm" :class="proof.same ? 'border-success' : 'border-warning'" data-proof>
            <p class="flex items-center gap-1.5 font-semibold">
              <UIcon :name="proof.same ? 'i-lucide-check' : 'i-lucide-triangle-alert'" class="size-4" />{{
                proof.same ? t('reportsIdSourcePage.bothPrintTheSame') : t('reportsIdSourcePage.theyPrintSomethingElse')
              }}
            </p>
            <p>
              {{
                t('reportsIdSourcePage.theSame', {
                  many: many(proof.changes.counts.same, 'row'),
                  what: proof.same
                    ? t('reportsIdSourcePage.on', { many: many(proof.pages[1], 'page') })
                    : t('reportsIdSourcePage.changedOnlyThereOnlyHere', {
                        many: many(proof.changes.counts.changed, 'row'),
                        grouped: grouped(proof.changes.counts.new),
                        grouped2: grouped(proof.changes.counts.gone),
                      }),
                })
              }}
            </p>
            <p v-if="!proof.same && !proof.changes.rows.length" class="mt-1" data-other-pages>
              {{
                t('reportsIdSourcePage.inAChartInA', {
                  many: many(proof.differing.length, 'page'),
                  what: t('reportsIdSourcePage.differsDiffer', proof.differing.length),
                  grouped: grouped((proof.differing[0] ?? 0) + 1),
                })
              }}
            </p>
            <ul v-if="differing.length" class="mt-2 space-y-1">
              <li v-for="each in differing" :key="each.key">
                <span class="font-medium">{{ each.label }}</span> <span class="text-muted">{{ each.words }}</span>
              </li>
            </ul>
            <p v-for="sum in proof.changes.sums" :key="`${sum.block} ${sum.column}`" class="mt-1">
              {{
                t('reportsIdSourcePage.differsByInAll', {
                  what: proof.changes.titles[sum.block]?.[sum.column] ?? sum.column,
                  amount: amount(sum.difference),
                })
              }}
            </p>
            <NuxtLink
              class="mt-2 inline-block font-medium text-primary underline"
              :to="{ path: '/changes', query: { before: proof.before, now: proof.now } }"
              >{{ t('reportsIdSourcePage.seeBothSideBySide') }}</NuxtLink
            >
          </div>
        </section>
        <div class="mt-auto space-y-2 border-t border-default pt-3">
          <UButton block :disabled="!!busy" icon="i-lucide-arrow-right-left" @click="keep">{{
            t('reportsIdSourcePage.readFromNowOn', { name })
          }}</UButton>
          <p class="text-xs text-muted">
            {{
              t('reportsIdSourcePage.itBecomesAVersionOf', {
                what: proof
                  ? proof.same
                    ? t('reportsIdSourcePage.provedTheSame')
                    : t('reportsIdSourcePage.itPrintsSomethingElseThere')
                  : lacks.length
                    ? t('reportsIdSourcePage.partsOfTheReportWill')
                    : t('reportsIdSourcePage.notProvedYet'),
              })
            }}
          </p>
        </div>
      </template>
      <p v-else class="text-sm text-muted">
        {{ t('reportsIdSourcePage.chooseASourceWhatIt') }}
      </p>
      <p v-if="problem" class="rounded-md bg-brick-50 p-3 text-sm dark:bg-brick-950" role="alert">{{ tell(problem) }}</p>
    </aside>
  </div>
</template>
