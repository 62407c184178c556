<script setup lang="ts">
import { checkFormula } from '../../../core/formula/check'
import { moveLine, removeLine, setLine } from '../../../core/definition/edits/statement'
import type { StatementLine } from '../../../core/definition/blocks/statement'
import { lineLevel } from '../../../core/compose/statement/prepare'
import { readAccounts } from '../../../core/statement/accounts'

/** The selected line of a statement: which accounts, what formula, how it stands. */
const { report, sheet, statement, line, selection } = useSheetSelection()
const on = (event: Event) => (event.target as HTMLInputElement).checked
const words = {
  heading: t('statementLine.heading'),
  accounts: t('statementLine.accounts2'),
  formula: t('statementLine.formula'),
  sum: t('statementLine.sum2'),
  blank: t('statementLine.blankLine'),
  rule: t('statementLine.rule3'),
  break: t('statementLine.pageBreak'),
} as const
const borders = ['', 'none', 'hair', 'thin', 'thick', 'double'] as const
const set = (label: string, change: Partial<StatementLine>) =>
  report.edit(label, now => setLine(now, statement.value!.id, line.value!.id, change))
const only = (which: 'branches' | 'departments', codes: string[]) =>
  set(which === 'branches' ? t('statementLine.branchesOfTheLine') : t('statementLine.departmentsOfTheLine'), {
    [which]: codes.length ? codes : undefined,
  })
const draft = ref('')
const fault = ref('')
const source = computed(() => (line.value?.kind === 'formula' ? (line.value.formula ?? '') : (line.value?.accounts ?? '')))
watch(
  [() => line.value?.id, source],
  () => {
    draft.value = source.value
    fault.value = ''
  },
  { immediate: true },
)
function commit(): void {
  const text = draft.value.trim()
  fault.value = ''
  if (text === source.value) return
  try {
    if (line.value!.kind === 'accounts') readAccounts(text)
    else {
      checkFormula(text, { levels: [lineLevel(statement.value!.lines)], level: 0, parameters: report.model!.parameterTypes })
    }
    set(
      line.value!.kind === 'accounts' ? t('statementLine.accounts') : t('common.formula'),
      line.value!.kind === 'accounts' ? { accounts: text } : { formula: text },
    )
  } catch (error) {
    fault.value = (error as Error).message
  }
}
const hasTree = computed(() => !!report.catalog?.ledger?.accounts.parent)
const figures = computed(() =>
  statement.value!.lines.filter(each => each.kind === 'accounts' || each.kind === 'formula' || each.kind === 'sum'),
)
</script>

<template>
  <SheetSection v-if="statement && line && selection?.part !== 'titles'" :title="t('statementLine.thisLine')" :note="words[line.kind]">
    <label v-if="line.kind !== 'blank' && line.kind !== 'rule' && line.kind !== 'break'" class="block"
      ><span class="text-muted">{{ t('statementLine.calledInFormulas') }}</span
      ><TextField
        mono
        class="mt-0.5 w-full"
        :value="line.id"
        @write="
          $event => {
            set(t('statementLine.nameOfTheLine'), { id: $event.trim() })
            sheet.selection = { ...selection!, rowId: $event.trim() }
          }
        "
    /></label>
    <label v-if="line.kind === 'accounts' || line.kind === 'formula'" class="block">
      <span class="text-muted">{{ line.kind === 'accounts' ? t('statementLine.accounts') : t('statementLine.formulaOverLines') }}</span>
      <textarea
        v-model="draft"
        rows="2"
        class="mt-0.5 w-full rounded-md border bg-default px-2 py-1 font-mono text-xs"
        :class="fault ? 'border-error' : 'border-default'"
        :aria-label="line.kind === 'accounts' ? t('statementLine.accountsOfTheLine') : t('statementLine.formulaOfTheLine')"
        :placeholder="line.kind === 'accounts' ? t('statementLine.4000449961ClassQuot') : t('statementLine.salesCostofsales')"
        @keydown.stop
        @keydown.enter.prevent="commit"
        @change="commit"
      />
      <span v-if="fault" class="text-xs text-error" role="alert">{{ tell(fault) }}</span>
      <span v-else-if="line.kind === 'accounts'" class="text-xs text-dimmed">{{
        t('statementLine.codesRangesAB61', { what: hasTree ? t('statementLine.under6100') : '' })
      }}</span>
    </label>
    <template v-if="line.kind === 'sum'">
      <label v-for="side in ['from', 'to'] as const" :key="side" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ side === 'from' ? t('statementLine.addsUpFrom') : t('common.to') }}</span
        ><PickField class="w-36" :value="line[side] ?? ''" @pick="set(t('statementLine.sum'), { [side]: $event || undefined })">
          <option value="">{{ side === 'from' ? t('statementLine.theSumAbove') : t('statementLine.theLineAbove') }}</option>
          <option v-for="each in figures.filter(other => other.id !== line!.id)" :key="each.id" :value="each.id">
            {{ each.caption || each.id }}
          </option>
        </PickField></label
      >
    </template>
    <label v-if="line.kind === 'accounts'" class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementLine.positiveWhere') }}</span
      ><PickField
        class="w-36"
        :value="line.sign ?? 'natural'"
        @pick="set(t('statementLine.sign'), { sign: $event === 'natural' ? undefined : ($event as 'debit') })"
      >
        <option value="natural">{{ t('statementLine.naturalForThem') }}</option>
        <option value="credit">{{ t('statementLine.creditsPrevail') }}</option>
        <option value="debit">{{ t('statementLine.debitsPrevail') }}</option>
      </PickField></label
    >
    <label v-if="line.kind === 'accounts'" class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementLine.itsAccounts') }}</span
      ><PickField
        class="w-36"
        :aria-label="t('statementLine.howItsAccountsStand')"
        :value="line.expand === 'tree' ? 'tree' : line.expand ? 'list' : ''"
        @pick="set(t('statementLine.showAccounts'), { expand: $event === 'tree' ? 'tree' : $event === 'list' || undefined })"
      >
        <option value="">{{ t('statementLine.areNotShown') }}</option>
        <option value="list">{{ t('statementLine.standOneByOne') }}</option>
        <option v-if="hasTree || line.expand === 'tree'" value="tree">{{ t('statementLine.standAsATree') }}</option>
      </PickField></label
    >
    <label v-if="line.kind === 'accounts' || line.kind === 'formula' || line.kind === 'sum'" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!line.hideZero"
        @change="set(t('statementLine.zeroLine'), { hideZero: on($event) || undefined })"
      />
      {{ t('statementLine.leftOutWhereAllIs') }}</label
    >
    <label v-if="line.kind === 'formula'" class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('common.format') }}</span
      ><TextField
        mono
        class="w-36"
        :value="line.format ?? ''"
        :placeholder="t('statementLine.anAmount')"
        @write="set(t('common.format'), { format: $event.trim() || undefined })"
    /></label>
    <template v-if="line.kind === 'accounts'"
      ><SheetUnitField
        v-for="kind of ['branches', 'departments'] as const"
        :key="kind"
        :kind="kind"
        :chosen="line[kind] ?? []"
        @choose="codes => only(kind, codes)"
    /></template>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementLine.indent') }}</span
      ><NumberField
        whole
        :least="0"
        :most="20"
        class="w-20"
        :value="line.indent ?? 0"
        @write="set(t('statementLine.indent'), { indent: $event || undefined })"
    /></label>
    <SheetStyleFields
      :style="line.style ?? {}"
      :full="false"
      @set="set(t('statementLine.lookOfTheLine'), { style: { ...line!.style, ...$event } })"
    />
    <div class="flex items-center justify-between gap-2">
      <span class="shrink-0 text-muted">{{ t('statementLine.rules') }}</span><span class="flex gap-1">
        <PickField
          v-for="side in ['above', 'below'] as const"
          :key="side"
          class="w-[6.2rem]"
          :aria-label="t('statementLine.rule', { side })"
          :value="line.style?.[side] ?? ''"
          @pick="set(t('statementLine.rule2'), { style: { ...line!.style, [side]: $event || undefined } as never })"
        >
          <option v-for="each in borders" :key="each" :value="each">{{ each || t('statementLine.theme') }}</option>
        </PickField>
      </span>
    </div>
    <label v-if="statement.footnotes?.length" class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementLine.footnote') }}</span
      ><PickField class="w-36" :value="line.footnote ?? ''" @pick="set(t('statementLine.footnote'), { footnote: $event || undefined })">
        <option value="">{{ t('common.none') }}</option>
        <option v-for="(each, index) in statement.footnotes" :key="each.id" :value="each.id">{{ index + 1 }}</option>
      </PickField></label
    >
    <div class="flex flex-wrap gap-1">
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-up"
        :aria-label="t('statementLine.lineUp')"
        @click="report.edit(t('statementLine.moveLine'), now => moveLine(now, statement!.id, line!.id, -1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-down"
        :aria-label="t('statementLine.lineDown')"
        @click="report.edit(t('statementLine.moveLine'), now => moveLine(now, statement!.id, line!.id, 1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="error"
        icon="i-lucide-trash-2"
        class="ml-auto"
        @click="
          () => {
            report.edit(t('statementLine.deleteLine'), now => removeLine(now, statement!.id, line!.id))
            sheet.selection = undefined
          }
        "
        >{{ t('statementLine.deleteLine') }}</UButton
      >
    </div>
  </SheetSection>
</template>
