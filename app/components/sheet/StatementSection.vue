<script setup lang="ts">
import { freeId } from '../../../core/definition/edits/edits'
import { askAccounts, askBranches, askDay } from '../../../core/definition/edits/books'
import { changeStatement } from '../../../core/definition/edits/statement'
import { isStatementBlock, type StatementBlock } from '../../../core/definition/blocks/statement'

/** The selected statement as a whole: its scale, signs, footnotes and hidden columns. */
const { report, statement } = useSheetSelection()
const on = (event: Event) => (event.target as HTMLInputElement).checked
const set = (label: string, change: Partial<StatementBlock>) =>
  report.edit(label, now => changeStatement(now, statement.value!.id, block => ({ ...block, ...change })))
const hidden = computed(() => statement.value!.columns.filter(column => column.hidden))
const canAskBranches = computed(
  () => !!report.catalog?.ledger?.branches && askBranches(report.definition!, report.catalog.ledger) !== report.definition,
)
const canAskAccounts = computed(() => askAccounts(report.definition!) !== report.definition)
const canAskDay = computed(() => askDay(report.definition!) !== report.definition)
const notes = computed(() => statement.value!.footnotes ?? [])
/** Footnotes of other statements of the report, to be copied. */
const elsewhere = computed(() =>
  report
    .definition!.layouts.flatMap(layout => layout.blocks)
    .flatMap(block => (isStatementBlock(block) && block.id !== statement.value!.id && block.footnotes?.length ? [block] : [])),
)
/** Footnotes of other reports. */
const others = ref<{ report: string; name: string; statement: string; footnotes: { id: string; text: string }[] }[]>([])
onMounted(async () => {
  others.value = await api<typeof others.value>(`/api/footnotes?but=${encodeURIComponent(report.id ?? '')}`).catch(() => [])
})
/** Footnotes that are copied stand after those that are there; the same words are not said twice. */
function copyNotes(from: readonly { id: string; text: string }[]): void {
  const fresh: { id: string; text: string }[] = []
  for (const note of from)
    if (![...notes.value, ...fresh].some(own => own.text === note.text))
      fresh.push({
        id: freeId(
          note.id,
          [...notes.value, ...fresh].map(own => own.id),
          true,
        ),
        text: note.text,
      })
  if (fresh.length) set(t('statementSection.copyFootnotes'), { footnotes: [...notes.value, ...fresh] })
}
function addNote(): void {
  set(t('statementSection.footnote2'), {
    footnotes: [
      ...notes.value,
      {
        id: freeId(
          'note',
          notes.value.map(each => each.id),
          true,
        ),
        text: t('statementSection.note'),
      },
    ],
  })
}
</script>

<template>
  <SheetSection v-if="statement" :title="t('statementSection.figuresOfThisStatement')">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementSection.in') }}</span
      ><PickField
        class="w-36"
        :aria-label="t('statementSection.scaleOfTheFigures')"
        :value="statement.scale"
        @pick="set(t('statementSection.scale'), { scale: $event as 'units', decimals: $event === 'units' ? 2 : 0 })"
      >
        <option value="units">{{ t('statementSection.units') }}</option>
        <option value="thousands">{{ t('statementSection.thousands') }}</option>
        <option value="millions">{{ t('statementSection.millions') }}</option>
      </PickField></label
    >
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('common.decimals') }}</span
      ><NumberField
        whole
        :least="0"
        :most="6"
        class="w-20"
        :value="statement.decimals"
        @write="set(t('common.decimals'), { decimals: $event })"
    /></label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementSection.negatives') }}</span
      ><PickField class="w-36" :value="statement.negatives" @pick="set(t('statementSection.negatives'), { negatives: $event as 'minus' })">
        <option value="minus">−1,234</option>
        <option value="parentheses">(1,234)</option>
      </PickField></label
    >
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('statementSection.currency') }}</span
      ><span class="flex gap-1"
        ><TextField
          class="w-14"
          :value="statement.currency ?? ''"
          :placeholder="t('common.none')"
          :aria-label="t('statementSection.currencyOfTheFigures')"
          @write="set(t('statementSection.currency'), { currency: $event.trim() })"
        /><PickField
          class="w-[8.4rem]"
          :aria-label="t('statementSection.whereTheCurrencyStands')"
          :value="statement.currencyAt ?? ''"
          @pick="set(t('statementSection.placeOfTheCurrency'), { currencyAt: ($event || undefined) as never })"
        >
          <option value="">{{ t('statementSection.inTheTitles') }}</option>
          <option value="figures">{{ t('statementSection.atFigures') }}</option>
          <option value="sums">{{ t('statementSection.atSums') }}</option>
        </PickField></span
      ></label
    >
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="statement.codes"
        @change="set(t('statementSection.accountCodes'), { codes: on($event) })"
      />
      {{ t('statementSection.accountCodes') }}</label
    >
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="statement.zeroAccounts"
        @change="set(t('statementSection.zeroAccounts'), { zeroAccounts: on($event) })"
      />
      {{ t('statementSection.accountsWithoutFiguresToo') }}</label
    >
    <p v-if="hidden.length" class="flex flex-wrap items-center gap-1">
      <span class="text-muted">{{ t('statementSection.hidden') }}</span><UButton
        v-for="each in hidden"
        :key="each.id"
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-eye"
        @click="
          set(t('statementSection.showColumn'), {
            columns: statement!.columns.map(({ hidden: away, ...column }) =>
              column.id === each.id ? column : { ...column, ...(away ? { hidden: away } : {}) },
            ),
          })
        "
        >{{ each.title || each.id }}</UButton
      >
    </p>
    <div v-if="canAskBranches || canAskAccounts || canAskDay" class="flex flex-wrap items-center gap-1">
      <span class="text-muted">{{ t('statementSection.askWhenRun') }}</span>
      <UButton
        v-if="canAskBranches"
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-message-circle-question"
        @click="report.edit(t('statementSection.askForBranches'), now => askBranches(now, report.catalog!.ledger!))"
        >{{ t('statementSection.branches') }}</UButton
      >
      <UButton
        v-if="canAskAccounts"
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-message-circle-question"
        @click="report.edit(t('statementSection.askForAccounts'), askAccounts)"
        >{{ t('statementSection.accountsFromTo') }}</UButton
      >
      <UButton
        v-if="canAskDay"
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-message-circle-question"
        :title="t('statementSection.whatIsPostedUpTo')"
        @click="report.edit(t('statementSection.askForADay'), askDay)"
        >{{ t('statementSection.aDayInsteadOfA') }}</UButton
      >
    </div>
    <div class="space-y-1">
      <span class="text-muted">{{ t('statementSection.footnotes') }}</span>
      <div v-for="(each, index) in notes" :key="each.id" class="flex items-start gap-1">
        <span class="w-4 shrink-0 pt-1 text-xs text-dimmed">{{ index + 1 }}</span><TextField
          rows="2"
          class="grow"
          :aria-label="t('statementSection.footnote', { what: index + 1 })"
          :value="each.text"
          @write="
            set(t('statementSection.footnote2'), { footnotes: notes.map(note => (note.id === each.id ? { ...note, text: $event } : note)) })
          "
        /><UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('statementSection.takeFootnoteAway', { what: index + 1 })"
          @click="
            set(t('statementSection.footnote2'), {
              footnotes: notes.filter(note => note.id !== each.id),
              lines: statement!.lines.map(({ footnote, ...line }) => (footnote && footnote !== each.id ? { ...line, footnote } : line)),
            })
          "
        />
      </div>
      <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="addNote">{{ t('statementSection.footnote3') }}</UButton>
      <PickField
        v-if="others.length"
        size="xs"
        :aria-label="t('statementSection.copyFootnotesOfAnotherReport')"
        @pick="copyNotes(others[Number($event)]!.footnotes)"
      >
        <option value="">{{ t('statementSection.copyFromAnotherReport') }}</option>
        <option v-for="(each, index) in others" :key="`${each.report} ${each.statement}`" :value="index">
          {{ each.name }}, {{ each.footnotes.length }} {{ t('statementSection.footnoteFootnotes', each.footnotes.length) }}
        </option>
      </PickField>
      <UButton
        v-for="each in elsewhere"
        :key="each.id"
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-copy"
        @click="copyNotes(each.footnotes!)"
        >{{ t('statementSection.thoseOf', { id: each.id }) }}</UButton
      >
    </div>
  </SheetSection>
</template>
