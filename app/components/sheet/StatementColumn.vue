<script setup lang="ts">
import { askVersion } from '../../../core/definition/edits/books'
import { setStatementColumn, moveStatementColumn, removeStatementColumn } from '../../../core/definition/edits/statement'
import type { StatementColumn, StatementSpan } from '../../../core/definition/blocks/statement'
import { columnName, holdsFigures } from '../../../core/statement/columns'

/** The selected column of a statement: what it holds, over which periods, how often. */
const { report, sheet, statement, figure } = useSheetSelection()
const on = (event: Event) => (event.target as HTMLInputElement).checked
const set = (label: string, change: Partial<StatementColumn>) =>
  report.edit(label, now => setStatementColumn(now, statement.value!.id, figure.value!.id, change))
const span = (change: Partial<StatementSpan>) =>
  set(t('statementColumn.periodsOfTheColumn'), {
    span: Object.fromEntries(
      Object.entries({ ...figure.value!.span!, ...change }).filter(([, each]) => each !== undefined && each !== ''),
    ) as unknown as StatementSpan,
  })
const anchor = computed(
  () => figure.value?.span?.anchor ?? statement.value!.columns.find(each => each.span)?.span?.anchor ?? 'param.period',
)
const kinds = [
  ['activity', t('statementColumn.actualActivity')],
  ['balance', 'balance'],
  ['opening', t('statementColumn.openingBalance')],
  ['debit', 'debits'],
  ['credit', 'credits'],
  ['budget', 'budget'],
  ['difference', t('statementColumn.differenceOfTwoColumns')],
  ['percent', t('statementColumn.differenceInPerCent')],
  ['total', t('statementColumn.totalOfColumns')],
  ['average', t('statementColumn.averageOfColumns')],
  ['share', t('statementColumn.perCentOfALine')],
] as const
const units = [
  ['period', t('statementColumn.thePeriod')],
  ['quarter', t('statementColumn.itsQuarter')],
  ['year', t('statementColumn.itsFiscalYear')],
  ['yearToDate', t('statementColumn.yearToDate')],
  ['last', t('statementColumn.lastNPeriods')],
  ['range', t('statementColumn.aRange')],
] as const
const overs = [
  ['', 'once'],
  ['period', t('statementColumn.forEachPeriod')],
  ['quarter', t('statementColumn.forEachQuarter')],
  ['year', t('statementColumn.forEachYear')],
  ['branch', t('statementColumn.forEachBranch')],
  ['department', t('statementColumn.forEachDepartment')],
] as const
const others = computed(() => statement.value!.columns.filter(each => each.id !== figure.value!.id))
function kind(next: StatementColumn['kind']): void {
  const own = figure.value!
  const before = others.value.filter(each => holdsFigures(each)).map(each => each.id)
  set(
    t('statementColumn.kindOfColumn'),
    holdsFigures({ ...own, kind: next })
      ? ({ kind: next, span: own.span ?? { unit: 'period', anchor: anchor.value }, of: undefined } as never)
      : ({
          kind: next,
          span: undefined,
          repeat: undefined,
          of: own.of?.length ? own.of : next === 'total' || next === 'average' ? before : before.slice(0, 2),
          ...(next === 'share' ? { line: own.line ?? statement.value!.lines.find(each => each.kind === 'sum')?.id ?? '' } : {}),
        } as never),
  )
}
function repeat(over: string): void {
  set(t('statementColumn.repeatTheColumn'), {
    repeat: over
      ? {
          over: over as 'period',
          ...(over === 'branch' || over === 'department' ? {} : { count: over === 'period' ? 12 : over === 'quarter' ? 4 : 3 }),
        }
      : undefined,
  } as never)
}
/** versions of the budget that the source holds, and parameters that choose one */
const versions = computed(() => [
  ...new Set([...(report.catalog?.ledger?.versions ?? []), ...(figure.value?.version ? [figure.value.version] : [])]),
])
const versionParameters = computed(() =>
  report.definition!.parameters.filter(each => each.kind === 'choice' && each.choices?.table === report.catalog?.ledger?.budgets?.table),
)
function version(chosen: string): void {
  if (chosen !== '+')
    return set(
      t('statementColumn.budgetVersion'),
      (chosen.startsWith('=')
        ? { versionFrom: chosen.slice(1), version: undefined }
        : { version: chosen || undefined, versionFrom: undefined }) as never,
    )
  report.edit(t('statementColumn.budgetVersion'), now => {
    const { report: asked, name } = askVersion(now, report.catalog!.ledger!)
    return setStatementColumn(asked, statement.value!.id, figure.value!.id, { versionFrom: `param.${name}`, version: undefined } as never)
  })
}
const only = (which: 'branches' | 'departments', codes: string[]) =>
  set(which === 'branches' ? t('statementColumn.branchesOfTheColumn') : t('statementColumn.departmentsOfTheColumn'), {
    [which]: codes.length ? codes : undefined,
  } as never)
</script>

<template>
  <SheetSection v-if="statement && figure" :title="t('statementColumn.thisColumn')" :note="figure.id">
    <label class="block"
      ><span class="text-muted">{{ t('common.title') }}</span
      ><TextField
        class="mt-0.5 w-full"
        :value="figure.title ?? ''"
        :placeholder="t('statementColumn.whatItHoldsInWords')"
        :aria-label="t('statementColumn.titleOfTheColumn')"
        @write="set(t('common.title'), { title: $event.trim() || undefined } as never)"
    /></label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementColumn.holds') }}</span
      ><PickField
        class="w-40"
        :aria-label="t('statementColumn.whatTheColumnHolds')"
        :value="figure.kind"
        @pick="kind($event as StatementColumn['kind'])"
      >
        <option v-for="[each, label] in kinds" :key="each" :value="each">{{ label }}</option>
      </PickField></label
    >
    <template v-if="figure.span">
      <label class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('statementColumn.over') }}</span
        ><PickField
          class="w-40"
          :aria-label="t('statementColumn.periodsOfTheColumn')"
          :value="figure.span.unit"
          @pick="
            span({
              unit: $event as 'period',
              ...($event === 'last' ? { count: figure!.span!.count ?? 12 } : {}),
              ...($event === 'range' ? { to: figure!.span!.to ?? anchor } : {}),
            })
          "
        >
          <option v-for="[each, label] in units" :key="each" :value="each">{{ label }}</option>
        </PickField></label
      >
      <label v-if="figure.span.unit === 'last'" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('statementColumn.howMany') }}</span
        ><NumberField whole :least="1" :most="60" class="w-20" :value="figure.span.count ?? 12" @write="span({ count: $event })"
      /></label>
      <label class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('statementColumn.seenFrom') }}</span
        ><TextField mono class="w-40" :value="figure.span.anchor" @write="span({ anchor: $event.trim() })"
      /></label>
      <label v-if="figure.span.unit === 'range'" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('common.upTo') }}</span
        ><TextField mono class="w-40" :value="figure.span.to ?? ''" @write="span({ to: $event.trim() })"
      /></label>
      <div class="flex items-center justify-between gap-2">
        <span class="text-muted">{{ t('statementColumn.earlierBy') }}</span><span class="flex gap-1"
          ><NumberField
            whole
            :least="0"
            :most="200"
            class="w-16"
            :aria-label="t('statementColumn.howMuchEarlier')"
            :value="figure.span.back ?? 0"
            @write="span({ back: $event || undefined, backBy: $event ? (figure!.span!.backBy ?? 'year') : undefined } as never)"
          /><PickField
            class="w-[7rem]"
            :aria-label="t('statementColumn.earlierIn')"
            :value="figure.span.backBy ?? 'year'"
            @pick="span({ backBy: $event as 'year' })"
          >
            <option value="period">{{ t('statementColumn.periods') }}</option>
            <option value="quarter">{{ t('statementColumn.quarters') }}</option>
            <option value="year">{{ t('statementColumn.years') }}</option>
          </PickField></span
        >
      </div>
      <label class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('statementColumn.stands') }}</span
        ><PickField
          class="w-40"
          :aria-label="t('statementColumn.repeatOfTheColumn')"
          :value="figure.repeat?.over ?? ''"
          @pick="repeat($event)"
        >
          <option v-for="[each, label] in overs" :key="each" :value="each">{{ label }}</option>
        </PickField></label
      >
      <label
        v-if="figure.repeat && figure.repeat.over !== 'branch' && figure.repeat.over !== 'department'"
        class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('statementColumn.howOften') }}</span
        ><NumberField
          whole
          :least="1"
          :most="60"
          class="w-20"
          :aria-label="t('statementColumn.howOftenTheColumnStands')"
          :value="figure.repeat.count ?? 12"
          @write="set(t('statementColumn.repeatTheColumn'), { repeat: { over: figure!.repeat!.over, count: $event } })"
      /></label>
      <label v-if="figure.kind === 'budget'" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('statementColumn.version') }}</span
        ><PickField
          class="w-40"
          :aria-label="t('statementColumn.budgetVersion')"
          :value="figure.versionFrom ? `=${figure.versionFrom}` : (figure.version ?? '')"
          @pick="version($event)"
        >
          <option value="">{{ t('statementColumn.theFirst') }}</option>
          <option v-for="each in versions" :key="each" :value="each">{{ each }}</option>
          <option v-for="each in versionParameters" :key="each.name" :value="`=param.${each.name}`">
            {{ t('statementColumn.answeredBy', { label: each.label }) }}
          </option>
          <option v-if="!versionParameters.length" value="+">{{ t('statementColumn.askedWhenRun') }}</option>
        </PickField></label
      >
      <SheetUnitField
        v-for="which of ['branches', 'departments'] as const"
        :key="which"
        :kind="which"
        :chosen="figure[which] ?? []"
        @choose="codes => only(which, codes)"
      />
    </template>
    <template v-else-if="figure.kind === 'total' || figure.kind === 'average'">
      <label v-for="each in others.filter(other => other.span)" :key="each.id" class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="figure.of?.includes(each.id)"
          @change="
            set(t('common.columns'), {
              of: on($event) ? [...(figure!.of ?? []), each.id] : figure!.of?.filter(id => id !== each.id),
            } as never)
          "
        />
        {{ columnName(each, tell) }}</label
      >
    </template>
    <template v-else>
      <label
        v-for="(word, place) in figure.kind === 'share' ? ['Of'] : ['Of', 'against']"
        :key="word"
        class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ word }}</span
        ><PickField
          class="w-40"
          :value="figure.of?.[place] ?? ''"
          @pick="
            set(t('common.columns'), {
              of: [0, 1].slice(0, figure!.kind === 'share' ? 1 : 2).map(at => (at === place ? $event : (figure!.of?.[at] ?? ''))),
            })
          "
        >
          <option v-for="each in others" :key="each.id" :value="each.id">{{ columnName(each, tell) }}</option>
        </PickField></label
      >
      <label v-if="figure.kind === 'share'" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('statementColumn.100Is') }}</span
        ><PickField class="w-40" :value="figure.line ?? ''" @pick="set(t('common.line'), { line: $event })">
          <option v-for="each in statement.lines.filter(line => line.caption && line.kind !== 'heading')" :key="each.id" :value="each.id">
            {{ each.caption }}
          </option>
        </PickField></label
      >
      <label v-else class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="!!figure.favourable"
          @change="set(t('statementColumn.betterOrWorse'), { favourable: on($event) || undefined } as never)"
        />
        {{ t('statementColumn.positiveWhereItIsBetter') }}</label
      >
    </template>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementColumn.widthPoints') }}</span
      ><NumberField
        whole
        :least="0"
        :most="600"
        class="w-20"
        :value="figure.width"
        :title="t('statementColumn.0AsWideAsIts')"
        @write="set(t('common.width'), { width: $event })"
    /></label>
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!figure.hidden"
        @change="set(t('statementColumn.hideColumn'), { hidden: on($event) || undefined } as never)"
      />
      {{ t('statementColumn.hidden') }}</label
    >
    <div class="flex flex-wrap gap-1">
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-left"
        :aria-label="t('statementColumn.columnToTheLeft')"
        @click="report.edit(t('statementColumn.moveColumn'), now => moveStatementColumn(now, statement!.id, figure!.id, -1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-right"
        :aria-label="t('statementColumn.columnToTheRight')"
        @click="report.edit(t('statementColumn.moveColumn'), now => moveStatementColumn(now, statement!.id, figure!.id, 1))"
      />
      <UButton
        v-if="statement.columns.length > 1"
        size="xs"
        variant="outline"
        color="error"
        icon="i-lucide-trash-2"
        class="ml-auto"
        @click="
          () => {
            report.edit(t('common.deleteColumn'), now => removeStatementColumn(now, statement!.id, figure!.id))
            sheet.selection = undefined
          }
        "
        >{{ t('common.deleteColumn') }}</UButton
      >
    </div>
  </SheetSection>
</template>
