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
  heading: 'heading',
  accounts: 'accounts',
  formula: 'formula',
  sum: 'sum',
  blank: 'blank line',
  rule: 'rule',
  break: 'page break',
} as const
const borders = ['', 'none', 'hair', 'thin', 'thick', 'double'] as const
const set = (label: string, change: Partial<StatementLine>) =>
  report.edit(label, now => setLine(now, statement.value!.id, line.value!.id, change))
const only = (which: 'branches' | 'departments', codes: string[]) =>
  set(which === 'branches' ? 'Branches of the line' : 'Departments of the line', { [which]: codes.length ? codes : undefined })
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
    set(line.value!.kind === 'accounts' ? 'Accounts' : 'Formula', line.value!.kind === 'accounts' ? { accounts: text } : { formula: text })
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
  <SheetSection v-if="statement && line && selection?.part !== 'titles'" title="This line" :note="words[line.kind]">
    <label v-if="line.kind !== 'blank' && line.kind !== 'rule' && line.kind !== 'break'" class="block"
      ><span class="text-muted">Called in formulas</span
      ><TextField
        mono
        class="mt-0.5 w-full"
        :value="line.id"
        @write="
          $event => {
            set('Name of the line', { id: $event.trim() })
            sheet.selection = { ...selection!, rowId: $event.trim() }
          }
        "
    /></label>
    <label v-if="line.kind === 'accounts' || line.kind === 'formula'" class="block">
      <span class="text-muted">{{ line.kind === 'accounts' ? 'Accounts' : 'Formula over lines' }}</span>
      <textarea
        v-model="draft"
        rows="2"
        class="mt-0.5 w-full rounded-md border bg-default px-2 py-1 font-mono text-xs"
        :class="fault ? 'border-error' : 'border-default'"
        :aria-label="line.kind === 'accounts' ? 'Accounts of the line' : 'Formula of the line'"
        :placeholder="line.kind === 'accounts' ? '4000..4499, 61*, class &quot;Sales&quot;, except 4900' : 'sales - costOfSales'"
        @keydown.stop
        @keydown.enter.prevent="commit"
        @change="commit"
      />
      <span v-if="fault" class="text-xs text-error" role="alert">{{ fault }}</span>
      <span v-else-if="line.kind === 'accounts'" class="text-xs text-dimmed"
        >codes, ranges a..b, 61*, {{ hasTree ? 'under 6100, ' : '' }}class "…", type income, all; then except …</span
      >
    </label>
    <template v-if="line.kind === 'sum'">
      <label v-for="side in ['from', 'to'] as const" :key="side" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ side === 'from' ? 'Adds up from' : 'to' }}</span
        ><PickField class="w-36" :value="line[side] ?? ''" @pick="set('Sum', { [side]: $event || undefined })">
          <option value="">{{ side === 'from' ? 'the sum above' : 'the line above' }}</option>
          <option v-for="each in figures.filter(other => other.id !== line!.id)" :key="each.id" :value="each.id">
            {{ each.caption || each.id }}
          </option>
        </PickField></label
      >
    </template>
    <label v-if="line.kind === 'accounts'" class="flex items-center justify-between gap-2"
      ><span class="text-muted">Positive where</span
      ><PickField
        class="w-36"
        :value="line.sign ?? 'natural'"
        @pick="set('Sign', { sign: $event === 'natural' ? undefined : ($event as 'debit') })"
      >
        <option value="natural">natural for them</option>
        <option value="credit">credits prevail</option>
        <option value="debit">debits prevail</option>
      </PickField></label
    >
    <label v-if="line.kind === 'accounts'" class="flex items-center justify-between gap-2"
      ><span class="text-muted">Its accounts</span
      ><PickField
        class="w-36"
        aria-label="How its accounts stand"
        :value="line.expand === 'tree' ? 'tree' : line.expand ? 'list' : ''"
        @pick="set('Show accounts', { expand: $event === 'tree' ? 'tree' : $event === 'list' || undefined })"
      >
        <option value="">are not shown</option>
        <option value="list">stand one by one</option>
        <option v-if="hasTree || line.expand === 'tree'" value="tree">stand as a tree</option>
      </PickField></label
    >
    <label v-if="line.kind === 'accounts' || line.kind === 'formula' || line.kind === 'sum'" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!line.hideZero"
        @change="set('Zero line', { hideZero: on($event) || undefined })"
      />
      Left out where all is zero</label
    >
    <label v-if="line.kind === 'formula'" class="flex items-center justify-between gap-2"
      ><span class="text-muted">Format</span
      ><TextField
        mono
        class="w-36"
        :value="line.format ?? ''"
        placeholder="an amount"
        @write="set('Format', { format: $event.trim() || undefined })"
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
      ><span class="text-muted">Indent</span
      ><NumberField
        whole
        :least="0"
        :most="20"
        class="w-20"
        :value="line.indent ?? 0"
        @write="set('Indent', { indent: $event || undefined })"
    /></label>
    <SheetStyleFields :style="line.style ?? {}" :full="false" @set="set('Look of the line', { style: { ...line!.style, ...$event } })" />
    <div class="flex items-center justify-between gap-2">
      <span class="shrink-0 text-muted">Rules</span
      ><span class="flex gap-1">
        <PickField
          v-for="side in ['above', 'below'] as const"
          :key="side"
          class="w-[6.2rem]"
          :aria-label="`Rule ${side}`"
          :value="line.style?.[side] ?? ''"
          @pick="set('Rule', { style: { ...line!.style, [side]: $event || undefined } as never })"
        >
          <option v-for="each in borders" :key="each" :value="each">{{ each || 'theme' }}</option>
        </PickField>
      </span>
    </div>
    <label v-if="statement.footnotes?.length" class="flex items-center justify-between gap-2"
      ><span class="text-muted">Footnote</span
      ><PickField class="w-36" :value="line.footnote ?? ''" @pick="set('Footnote', { footnote: $event || undefined })">
        <option value="">none</option>
        <option v-for="(each, index) in statement.footnotes" :key="each.id" :value="each.id">{{ index + 1 }}</option>
      </PickField></label
    >
    <div class="flex flex-wrap gap-1">
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-up"
        aria-label="Line up"
        @click="report.edit('Move line', now => moveLine(now, statement!.id, line!.id, -1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-arrow-down"
        aria-label="Line down"
        @click="report.edit('Move line', now => moveLine(now, statement!.id, line!.id, 1))"
      />
      <UButton
        size="xs"
        variant="outline"
        color="error"
        icon="i-lucide-trash-2"
        class="ml-auto"
        @click="
          () => {
            report.edit('Delete line', now => removeLine(now, statement!.id, line!.id))
            sheet.selection = undefined
          }
        "
        >Delete line</UButton
      >
    </div>
  </SheetSection>
</template>
