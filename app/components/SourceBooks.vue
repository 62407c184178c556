<script setup lang="ts">
import type { Catalog } from '../../core/books/catalog'
import { type CatalogColumn, findTable, readable } from '../../core/catalog/types'
import type { ValueType } from '../../core/value/value'
import { periodLabel } from '../../core/books/calendar'
import { type FiscalYearRule, weekPatterns } from '../../core/books/fiscalYear'
import { accountNatures, type LedgerMap } from '../../core/books/ledger'
import { proposeAccounts, proposeBudgets, proposeJournals, proposeLines, unitOf } from '../../core/books/propose'
import type { Books } from '../../core/api/answers'

const sources = useSources()

/**
 * The books of a source: which tables and columns hold them, how its fiscal years are cut, and what checking all that against the data
 * says. What is found can be said otherwise, and is kept with the source.
 */
const { catalog } = defineProps<{ catalog: Catalog }>()
const emit = defineEmits<{ close: []; problem: [text: string]; kept: [] }>()
const books = shallowRef<Books>()
const map = ref<LedgerMap>()
const rule = ref<FiscalYearRule>()
const changed = ref(false)
const working = ref(false)
const fault = ref('')

function take(found: Books): void {
  books.value = found
  map.value = found.ledger && plain(found.ledger)
  rule.value = found.fiscalYear && { ...found.fiscalYear }
}
onMounted(async () => {
  try {
    take(await api<Books>(sources.path('books')))
  } catch (error) {
    emit('problem', (error as Error).message)
  }
})

const said = computed(
  () =>
    map.value && Object.fromEntries(Object.entries(plain(map.value)).filter(([key, value]) => value !== undefined && key !== 'classes')),
)
let turn = 0
/** Looks at what is said now, before it is kept; an answer that comes after something else was said is let go. */
async function check(): Promise<void> {
  const mine = ++turn
  changed.value = working.value = true
  fault.value = ''
  try {
    const found = await api<Books>(sources.path('books'), { method: 'POST', body: { ledger: said.value, fiscalYear: rule.value } })
    if (mine === turn) take(found)
  } catch (error) {
    if (mine === turn) fault.value = (error as Error).message
  }
  if (mine === turn) working.value = false
}
async function keep(found = false): Promise<void> {
  try {
    await sources.changeSettings(({ ledger: _, fiscalYear: __, ...settings }) => ({
      ...settings,
      ...(found ? {} : { ledger: said.value as LedgerMap, ...(rule.value ? { fiscalYear: rule.value } : {}) }),
    }))
    take(await api<Books>(sources.path('books')))
    changed.value = false
    emit('kept')
  } catch (error) {
    fault.value = (error as Error).message
  }
}
const isSaid = computed(() => !!books.value?.found || !!books.value?.fiscalYear)

const tables = computed(() => catalog.tables.map(table => table.name))
const columnsOf = (table: string | undefined, type?: ValueType): string[] =>
  (findTable(catalog, table ?? '')?.columns ?? [])
    .filter((column: CatalogColumn) => !type || column.type === type)
    .map(column => column.name)
const head = computed(() => map.value?.journals?.table ?? map.value?.lines.table)
/** Tables that the lines point at: one of them may hold the journals. */
const above = computed(() => [
  ...new Set(catalog.foreignKeys.filter(key => key.from.table === map.value?.lines.table).map(key => key.to.table)),
])

type Field = { label: string; value: string | undefined; items: readonly string[]; none?: string; set: (value: string | undefined) => void }
const field = (label: string, value: string | undefined, items: readonly string[], set: Field['set'], none?: string): Field => ({
  label,
  value,
  items,
  set,
  ...(none === undefined ? {} : { none }),
})
const groups = computed<{ name: string; table: Field; fields: Field[] }[]>(() => {
  const own = map.value
  if (!own) return []
  const { accounts, lines } = own
  const budgets = own.budgets
  const table = (name: string | undefined) => findTable(catalog, name ?? '')!
  return [
    {
      name: 'Accounts',
      table: field(
        t('common.table'),
        accounts.table,
        tables.value,
        name => (own.accounts = proposeAccounts(catalog, table(name)) ?? { table: name!, code: '', name: '', type: '' }),
      ),
      fields: [
        field(t('sourceBooks.code'), accounts.code, columnsOf(accounts.table), value => (accounts.code = value!)),
        field(t('sourceBooks.name'), accounts.name, columnsOf(accounts.table, 'text'), value => (accounts.name = value!)),
        field(t('sourceBooks.type'), accounts.type, columnsOf(accounts.table), value => (accounts.type = value!)),
        field(t('sourceBooks.class'), accounts.class, columnsOf(accounts.table), value => (accounts.class = value!), t('common.none')),
        field(
          t('sourceBooks.naturalSide'),
          accounts.side,
          columnsOf(accounts.table),
          value => (accounts.side = value!),
          t('sourceBooks.byType'),
        ),
        field(
          t('sourceBooks.standsUnder'),
          accounts.parent,
          columnsOf(accounts.table),
          value => (accounts.parent = value!),
          t('sourceBooks.noTree'),
        ),
      ],
    },
    {
      name: 'Journal lines',
      table: field(t('common.table'), lines.table, tables.value, name => {
        own.lines = proposeLines(catalog, table(name), accounts.table) ?? { table: name!, account: '' }
        Object.assign(
          own,
          {
            journals: undefined,
            closing: undefined,
            period: undefined,
            date: '',
            branches: unitOf(catalog, name!, own.lines.branch),
            departments: unitOf(catalog, name!, own.lines.department),
          },
          proposeJournals(catalog, name!),
        )
      }),
      fields: [
        field(t('sourceBooks.account'), lines.account, columnsOf(lines.table), value => (lines.account = value!)),
        field(t('sourceBooks.debit'), lines.debit, columnsOf(lines.table, 'number'), value => (lines.debit = value!), t('common.none')),
        field(t('sourceBooks.credit'), lines.credit, columnsOf(lines.table, 'number'), value => (lines.credit = value!), t('common.none')),
        field(
          t('sourceBooks.signedAmount'),
          lines.amount,
          columnsOf(lines.table, 'number'),
          value => (lines.amount = value!),
          t('common.none'),
        ),
        field(
          t('sourceBooks.branch'),
          lines.branch,
          columnsOf(lines.table),
          value => ([lines.branch, own.branches] = [value!, unitOf(catalog, lines.table, value)!]),
          'none',
        ),
        field(
          t('sourceBooks.department'),
          lines.department,
          columnsOf(lines.table),
          value => ([lines.department, own.departments] = [value!, unitOf(catalog, lines.table, value)!]),
          'none',
        ),
      ],
    },
    {
      name: 'Journals',
      table: field(
        t('common.table'),
        own.journals?.table,
        above.value,
        name =>
          Object.assign(
            own,
            { journals: undefined, closing: undefined, period: undefined },
            name === undefined ? {} : proposeJournals(catalog, lines.table, name),
          ),
        t('sourceBooks.theLinesThemselves'),
      ),
      fields: [
        field(t('sourceBooks.date'), own.date, columnsOf(head.value, 'date'), value => (own.date = value!)),
        field(
          t('sourceBooks.fiscalYear'),
          own.period?.year,
          columnsOf(head.value, 'number'),
          value => (own.period = value === undefined ? undefined! : { year: value, number: own.period?.number ?? value }),
          t('sourceBooks.byDate'),
        ),
        ...(own.period
          ? [field(t('sourceBooks.period'), own.period.number, columnsOf(head.value, 'number'), value => (own.period!.number = value!))]
          : []),
        field(
          t('sourceBooks.closesAYear'),
          own.closing,
          columnsOf(head.value, 'boolean'),
          value => (own.closing = value!),
          t('sourceBooks.notMarked'),
        ),
      ],
    },
    {
      name: 'Budgets',
      table: field(
        t('common.table'),
        budgets?.table,
        tables.value,
        name =>
          (own.budgets =
            name === undefined
              ? undefined!
              : (proposeBudgets(catalog, table(name), accounts.table, own.branches?.table) ?? {
                  table: name,
                  account: '',
                  amount: '',
                  period: { year: '', number: '' },
                  sign: 'natural',
                })),
        'none',
      ),
      fields: budgets
        ? [
            field(t('sourceBooks.account'), budgets.account, columnsOf(budgets.table), value => (budgets.account = value!)),
            field(t('sourceBooks.amount'), budgets.amount, columnsOf(budgets.table, 'number'), value => (budgets.amount = value!)),
            field(
              t('sourceBooks.version'),
              budgets.version,
              columnsOf(budgets.table),
              value => (budgets.version = value!),
              t('sourceBooks.oneOnly'),
            ),
            field(t('sourceBooks.branch'), budgets.branch, columnsOf(budgets.table), value => (budgets.branch = value!), t('common.none')),
            field(
              t('sourceBooks.fiscalYear'),
              budgets.period.year,
              columnsOf(budgets.table, 'number'),
              value => (budgets.period.year = value!),
            ),
            field(
              t('sourceBooks.period'),
              budgets.period.number,
              columnsOf(budgets.table, 'number'),
              value => (budgets.period.number = value!),
            ),
            field(
              t('sourceBooks.sign'),
              budgets.sign === 'natural' ? t('sourceBooks.asItsAccount') : t('sourceBooks.debitPositive'),
              [t('sourceBooks.asItsAccount'), t('sourceBooks.debitPositive')],
              value => (budgets.sign = value === t('sourceBooks.asItsAccount') ? 'natural' : 'debit'),
            ),
          ]
        : [],
    },
  ]
})
function choose(own: Field, picked: string): void {
  own.set(picked || undefined)
  if (
    groups.value.every(group => group.fields.every(each => each.none !== undefined || each.value)) &&
    (map.value!.lines.amount || (map.value!.lines.debit && map.value!.lines.credit))
  )
    void check()
  else [changed.value, fault.value] = [true, t('sourceBooks.sayTheColumnsThatAre')]
}
const words = computed(() => [...new Set(books.value?.accounts.flatMap(each => each.type ?? []))].sort())
const equity = computed(() => {
  const natures = map.value?.types ?? {}
  return [...(books.value?.accounts ?? [])].sort(
    (a, b) => Number(natures[b.type ?? ''] === 'equity') - Number(natures[a.type ?? ''] === 'equity') || (a.code < b.code ? -1 : 1),
  )
})
const months = Array.from({ length: 12 }, (_, index) => ({
  value: index + 1,
  label: new Intl.DateTimeFormat(locale(), { month: 'long', timeZone: 'UTC' }).format(new Date(Date.UTC(2026, index, 1))),
}))
const weekdays = [
  t('sourceBooks.sunday'),
  t('sourceBooks.monday'),
  t('sourceBooks.tuesday'),
  t('sourceBooks.wednesday'),
  t('sourceBooks.thursday'),
  t('sourceBooks.friday'),
  t('sourceBooks.saturday'),
]
function cut(kind: string): void {
  rule.value =
    kind === 'months'
      ? { kind: 'months', month: 1 }
      : kind === 'weeks'
        ? { kind: 'weeks', pattern: '4-4-5', month: 12, weekday: 6, end: 'last' }
        : undefined
  void check()
}
function ruleSet(change: object): void {
  rule.value = { ...rule.value!, ...change } as FiscalYearRule
  void check()
}
const lastPeriods = computed(() => books.value?.periods.slice(-3).map(period => tell(periodLabel(period, locale()))) ?? [])
</script>

<template>
  <section
    class="max-h-[60vh] shrink-0 overflow-auto border-b border-default bg-default px-6 py-4 text-sm"
    :aria-label="t('common.theBooks')"
    data-source-books
  >
    <div class="flex items-center gap-2 pb-3">
      <h2 class="font-display text-base font-semibold">{{ t('common.theBooks') }}</h2>
      <span class="text-muted">{{
        t('sourceBooks.whatStatementsAreMadeFrom', {
          what: changed
            ? t('sourceBooks.notKeptYet')
            : isSaid
              ? t('sourceBooks.asSomebodySaidIt')
              : t('sourceBooks.foundFromTablesKeysAnd'),
        })
      }}</span>
      <span v-if="fault" class="text-error" role="alert">{{ tell(fault) }}</span>
      <UButton v-if="changed" size="xs" class="ml-auto" :disabled="!!fault || working" @click="keep()">{{
        t('sourceBooks.keepWithTheSource')
      }}</UButton>
      <UButton v-if="isSaid" size="xs" variant="outline" color="neutral" :class="changed ? '' : 'ml-auto'" @click="keep(true)">{{
        t('sourceBooks.backToWhatWasFound')
      }}</UButton>
      <UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :class="changed || isSaid ? '' : 'ml-auto'"
        :aria-label="t('sourceBooks.closeTheBooks')"
        @click="emit('close')"
      />
    </div>
    <p v-if="!books" class="text-muted">{{ t('sourceBooks.checkingTheBooks') }}</p>
    <p v-else-if="!map" class="text-muted">
      {{ t('sourceBooks.noBooksWereFoundA') }}
    </p>
    <div v-else class="grid grid-cols-[minmax(0,1.6fr)_minmax(0,1fr)] gap-x-10">
      <div class="space-y-3">
        <fieldset v-for="group in groups" :key="group.name" class="flex gap-3">
          <legend class="contents">
            <span class="w-28 shrink-0 pt-0.5 font-semibold">{{ group.name }}</span>
          </legend>
          <div class="flex flex-wrap gap-x-3 gap-y-1.5">
            <label v-for="each in [group.table, ...group.fields]" :key="each.label" class="flex items-center gap-1.5"
              ><span v-if="each !== group.table" class="text-muted">{{ each.label }}</span>
              <PickField
                size="xs"
                :class="each === group.table ? 'font-semibold' : ''"
                :value="each.value ?? ''"
                :aria-label="`${group.name}: ${each.label}`"
                @pick="choose(each, $event)"
              >
                <option v-if="each.none !== undefined || !each.value" value="">{{ each.none ?? '…' }}</option>
                <option v-for="item in each.items" :key="item" :value="item">
                  {{ each === group.table ? readable(item) : readable(item).toLowerCase() }}
                </option>
              </PickField>
            </label>
          </div>
        </fieldset>
        <div class="flex gap-3">
          <span class="w-28 shrink-0 pt-0.5 font-semibold">{{ t('sourceBooks.types') }}</span>
          <div class="flex flex-wrap gap-x-3 gap-y-1.5">
            <label v-for="word in words" :key="word" class="flex items-center gap-1.5"
              ><span class="text-muted">{{ t('sourceBooks.is', { word }) }}</span
              ><PickField
                size="xs"
                :value="map.types[word] ?? ''"
                :aria-label="t('sourceBooks.whatMeans', { word })"
                @pick="
                  $event => {
                    map!.types = Object.fromEntries(Object.entries({ ...map!.types, [word]: $event }).filter(([, each]) => each)) as never
                    check()
                  }
                "
              >
                <option value="">{{ t('sourceBooks.noType') }}</option>
                <option v-for="nature in accountNatures" :key="nature" :value="nature">{{ tell(nature) }}</option>
              </PickField></label
            >
          </div>
        </div>
        <div class="flex gap-3">
          <span class="w-28 shrink-0 pt-0.5 font-semibold">{{ t('sourceBooks.accountsFor') }}</span>
          <div class="flex flex-wrap gap-x-3 gap-y-1.5">
            <label class="flex items-center gap-1.5"
              ><span class="text-muted">{{ t('sourceBooks.retainedEarnings') }}</span
              ><PickField
                size="xs"
                class="max-w-52"
                :value="map.retainedEarnings"
                :aria-label="t('sourceBooks.accountOfRetainedEarnings')"
                @pick="
                  $event => {
                    map!.retainedEarnings = $event
                    check()
                  }
                "
              >
                <option v-for="each in equity" :key="each.code" :value="each.code">{{ each.code }} {{ each.name }}</option>
              </PickField></label
            >
            <label class="flex items-center gap-1.5"
              ><span class="text-muted">{{ t('sourceBooks.bankAndCash') }}</span
              ><TextField
                mono
                class="w-40"
                :value="(map.cash ?? []).join(', ')"
                :aria-label="t('sourceBooks.bankAndCashAccounts')"
                @write="
                  $event => {
                    map!.cash = $event.split(/[\s,;]+/).filter(Boolean)
                    check()
                  }
                "
            /></label>
          </div>
        </div>
        <div class="flex gap-3" data-fiscal-years>
          <span class="w-28 shrink-0 pt-0.5 font-semibold">{{ t('sourceBooks.fiscalYears') }}</span>
          <div class="flex flex-wrap items-center gap-x-3 gap-y-1.5">
            <PickField size="xs" :value="rule?.kind ?? ''" :aria-label="t('sourceBooks.howFiscalYearsAreCut')" @pick="cut($event)">
              <option v-if="books.ownPeriods" value="">{{ t('sourceBooks.asTheTableOfPeriods') }}</option>
              <option v-else value="" disabled>…</option>
              <option value="months">{{ t('sourceBooks.twelveCalendarMonths') }}</option>
              <option value="weeks">{{ t('sourceBooks.fourQuartersOf13Weeks') }}</option>
            </PickField>
            <template v-if="rule?.kind === 'weeks'">
              <PickField
                size="xs"
                :value="rule.pattern"
                :aria-label="t('sourceBooks.weeksOfThePeriods')"
                @pick="ruleSet({ pattern: $event })"
              >
                <option v-for="each in weekPatterns" :key="each">{{ each }}</option>
              </PickField>
              <span class="text-muted">{{ t('sourceBooks.weeksEndingOnThe') }}</span><PickField
                size="xs"
                :value="rule.end"
                :aria-label="t('common.whichOne')"
                @pick="ruleSet({ end: $event })"
              >
                <option value="last">{{ t('sourceBooks.last') }}</option>
                <option value="nearest">{{ t('sourceBooks.nearest') }}</option>
              </PickField>
              <PickField
                size="xs"
                :value="rule.weekday"
                :aria-label="t('sourceBooks.dayOfTheWeek')"
                @pick="ruleSet({ weekday: Number($event) })"
              >
                <option v-for="(day, index) in weekdays" :key="day" :value="index">{{ day }}</option>
              </PickField>
              <span class="text-muted">{{ rule.end === 'last' ? t('sourceBooks.in') : t('sourceBooks.toTheEndOf') }}</span>
            </template>
            <label v-if="rule" class="flex items-center gap-1.5"
              ><span v-if="rule.kind === 'months'" class="text-muted">{{ t('sourceBooks.from') }}</span
              ><PickField size="xs" :value="rule.month" :aria-label="t('sourceBooks.month')" @pick="ruleSet({ month: Number($event) })">
                <option v-for="month in months" :key="month.value" :value="month.value">{{ month.label }}</option>
              </PickField></label
            >
          </div>
        </div>
      </div>
      <div class="space-y-3">
        <ul class="space-y-1" :aria-label="t('sourceBooks.checks')" :class="working ? 'opacity-50' : ''">
          <li v-for="each in books.checks" :key="each.sentence" class="flex items-start gap-2">
            <UIcon
              :name="each.holds ? 'i-lucide-check' : 'i-lucide-x'"
              class="mt-0.5 size-4 shrink-0"
              :class="each.holds ? 'text-success' : 'text-error'"
            />{{ tell(each.sentence) }}
          </li>
        </ul>
        <p v-if="lastPeriods.length" class="text-muted">{{ t('sourceBooks.theLastPeriods', { lastPeriods: lastPeriods.join(' · ') }) }}</p>
      </div>
    </div>
  </section>
</template>
