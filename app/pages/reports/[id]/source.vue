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
useHead({ title: () => `Swap source · ${report.name} · Estante` })

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
  busy.value = 'Looking at both sources …'
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
    why: other ? ['chosen by you'] : ['left out by you'],
    columns:
      mine && other
        ? matchColumns(needed, mine, other)
        : table.columns.map(({ column }) => ({ column, sure: 'unsure' as const, why: ['its table is left out'] })),
  })
  opened.value.add(table.table)
  void check()
}
function setColumn(table: TableMatch, at: number, real: string): void {
  table.columns[at] = {
    column: table.columns[at]!.column,
    sure: 'sure',
    ...(real ? { to: real, why: ['chosen by you'] } : { why: ['left out by you'] }),
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
  ;[busy.value, proof.value, problem.value] = ['Running the report on both …', undefined, '']
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
  busy.value = 'Pointing the report there …'
  try {
    await post('', { to: to.value, names: names.value, basedOn: report.version })
    await sources.load()
    await report.takeCurrent()
    toast.add({ title: `“${report.name}” now reads “${name.value}”. Its versions in the library go back.`, color: 'success' })
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
const grouped = (count: number) => count.toLocaleString('en')
/** an exact number with its digits in groups */
const amount = (text: string) => text.replace(/\d+/, digits => digits.replace(/\B(?=(\d{3})+$)/g, ','))
/** what differs, the first of it */
const differing = computed(() =>
  (proof.value?.changes.rows ?? []).slice(0, 12).map(row => ({
    key: `${row.block} ${row.part} ${row.label} ${row.kind}`,
    label: row.label,
    words:
      row.kind === 'new'
        ? `only on ${name.value}`
        : row.kind === 'gone'
          ? `only on ${proposal.value?.from.name}`
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
          <h1 class="font-display text-xl font-semibold">Swap source</h1>
          <p class="text-sm text-muted">
            The report stays as it is written. You say which tables and columns of the other source stand for those it knows.
          </p>
        </div>
        <label class="ml-auto flex items-center gap-2 text-sm">
          From {{ fromName }} to
          <USelect
            :model-value="to"
            :items="others.map(each => ({ label: each.name, value: each.id }))"
            placeholder="Choose a source"
            class="w-64"
            size="sm"
            aria-label="The other source"
            @update:model-value="propose(String($event))"
          />
        </label>
      </div>
      <p v-if="!others.length" class="mt-6 max-w-prose">
        There is no other source yet; <NuxtLink to="/sources" class="font-medium text-primary underline">add one under Sources</NuxtLink>.
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
              :label="`Table for ${table.table}`"
              @choose="setTable(table, $event)"
            />
            <span v-if="open(table)" class="ml-auto shrink-0 text-sm text-apricot-700 dark:text-apricot-300"
              >{{ many(open(table), 'column') }} left out</span
            >
          </div>
          <ul v-if="opened.has(table.table)" class="pb-2">
            <li v-for="(column, at) in table.columns" :key="column.column" class="flex items-center gap-3 px-3 py-0.5 text-sm">
              <span class="w-60 min-w-0 shrink-0 truncate pl-5">{{ column.column }}</span>
              <MatchLine
                :match="column"
                :choices="columnsIn(table)"
                what="column"
                :label="`Column for ${table.table} ${column.column}`"
                :disabled="!table.to"
                @choose="setColumn(table, at, $event)"
              />
            </li>
          </ul>
        </section>
      </div>
    </main>
    <aside class="flex w-[412px] shrink-0 flex-col gap-4 overflow-auto border-l border-default p-4" aria-label="Proof of sameness">
      <template v-if="tables.length">
        <p class="text-sm">
          {{ many(tables.filter(each => each.to).length, 'table') }} of {{ tables.length }} and {{ many(matched, 'column') }} of
          {{ needed.toLocaleString('en') }} have a match.
        </p>
        <div v-if="lacks.length" class="space-y-1 rounded-md bg-brick-50 p-3 text-sm dark:bg-brick-950" role="alert" data-lacks>
          <p class="font-semibold">What the report will miss</p>
          <p v-for="sentence in lacks" :key="sentence">{{ sentence }}</p>
        </div>
        <section class="space-y-3">
          <h2 class="font-display text-base font-semibold">Proof of sameness</h2>
          <p class="text-sm text-muted">
            The report is run on both sources with the same answers, and what they print is compared row by row.
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
            <UButton size="sm" variant="outline" icon="i-lucide-scale" :loading="!!stop" :disabled="!!lacks.length || !!busy" @click="prove"
              >Prove it</UButton
            >
            <UButton v-if="stop" size="sm" variant="ghost" color="neutral" @click="stop.abort()">Stop</UButton>
            <span v-if="busy" class="text-sm text-muted" role="status">{{ busy }}</span>
          </div>
          <div v-if="proof" class="rounded-md border p-3 text-sm" :class="proof.same ? 'border-success' : 'border-warning'" data-proof>
            <p class="flex items-center gap-1.5 font-semibold">
              <UIcon :name="proof.same ? 'i-lucide-check' : 'i-lucide-triangle-alert'" class="size-4" />{{
                proof.same ? 'Both print the same' : 'They print something else'
              }}
            </p>
            <p>
              {{ many(proof.changes.counts.same, 'row') }} the same{{
                proof.same
                  ? ` on ${many(proof.pages[1], 'page')}`
                  : `, ${many(proof.changes.counts.changed, 'row')} changed, ${grouped(proof.changes.counts.new)} only there, ${grouped(
                      proof.changes.counts.gone,
                    )} only here`
              }}.
            </p>
            <p v-if="!proof.same && !proof.changes.rows.length" class="mt-1" data-other-pages>
              {{ many(proof.differing.length, 'page') }} {{ proof.differing.length === 1 ? 'differs' : 'differ' }} in a chart, in a text
              outside of the rows, or in what only one of them has, first page {{ grouped((proof.differing[0] ?? 0) + 1) }}.
            </p>
            <ul v-if="differing.length" class="mt-2 space-y-1">
              <li v-for="each in differing" :key="each.key">
                <span class="font-medium">{{ each.label }}</span> <span class="text-muted">{{ each.words }}</span>
              </li>
            </ul>
            <p v-for="sum in proof.changes.sums" :key="`${sum.block} ${sum.column}`" class="mt-1">
              {{ proof.changes.titles[sum.block]?.[sum.column] ?? sum.column }} differs by {{ amount(sum.difference) }} in all.
            </p>
            <NuxtLink
              class="mt-2 inline-block font-medium text-primary underline"
              :to="{ path: '/changes', query: { before: proof.before, now: proof.now } }"
              >See both side by side</NuxtLink
            >
          </div>
        </section>
        <div class="mt-auto space-y-2 border-t border-default pt-3">
          <UButton block :disabled="!!busy" icon="i-lucide-arrow-right-left" @click="keep">Read {{ name }} from now on</UButton>
          <p class="text-xs text-muted">
            {{
              proof
                ? proof.same
                  ? 'Proved the same.'
                  : 'It prints something else there.'
                : lacks.length
                  ? 'Parts of the report will be missing.'
                  : 'Not proved yet.'
            }}
            It becomes a version of the report; going back to the one before takes it back.
          </p>
        </div>
      </template>
      <p v-else class="text-sm text-muted">
        Choose a source: what it is called there is proposed, with reasons, and you correct what is wrong.
      </p>
      <p v-if="problem" class="rounded-md bg-brick-50 p-3 text-sm dark:bg-brick-950" role="alert">{{ problem }}</p>
    </aside>
  </div>
</template>
