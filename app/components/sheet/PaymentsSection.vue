<script setup lang="ts">
import { isTable, type TableBlock } from '../../../core/definition/blocks/table'
import { setPaymentGroup, setPayments, setPaymentTerm } from '../../../core/definition/edits/payments'
import { paymentTerms } from '../../../core/payment/transfer'
import { proposePayments } from '../../../core/templates/payments'

/** The rows of the selected table as orders to a bank: which formula fills what of a payment, proposed by names, beside the page. */
const { report, block } = useSheetSelection()
const table = computed(() => (block.value && isTable(block.value) ? (block.value as TableBlock) : undefined))
const level = computed(() => report.tree?.levels.find(each => each.name === table.value?.level) ?? report.tree?.levels[0])
const payments = computed(() => table.value?.payments)
const groups = computed(() => table.value?.groups.map(each => each.id) ?? [])
const scope = computed(() => {
  if (!report.tree || !level.value) return undefined
  const depth = groups.value.indexOf(payments.value?.group ?? '')
  return {
    levels: report.tree.levels,
    level: level.value.index,
    parameters: report.model!.parameterTypes,
    groups: groups.value,
    row: depth < 0 ? ('line' as const) : depth,
  }
})
const each = computed(() => [
  { value: '·', label: t('payments.eachLine') },
  ...groups.value.map(id => ({ value: id, label: t('payments.eachGroup', { group: id }) })),
])
/** terms that were picked to be filled */
const picked = ref<string[]>([])
watch(
  () => block.value?.id,
  () => (picked.value = []),
)
const shown = computed(() =>
  paymentTerms.filter(({ id, must }) => must || payments.value?.terms[id] !== undefined || picked.value.includes(id)),
)
const others = computed(() =>
  paymentTerms.filter(term => !shown.value.includes(term)).map(({ id, name }) => ({ value: id as string, label: tell(name) })),
)
const edit = (change: Parameters<typeof report.edit>[1]) => report.edit(t('payments.payments'), change)
const propose = () => edit(now => setPayments(now, table.value!.id, proposePayments(table.value!, level.value!)))
</script>

<template>
  <SheetSection v-if="table && level" :title="t('payments.payments')">
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        data-payments
        :checked="!!payments"
        @change="payments ? edit(now => setPayments(now, table!.id, undefined)) : propose()"
      />
      {{ t('payments.rowsAsPayments') }}</label
    >
    <template v-if="payments">
      <p class="text-xs text-muted">{{ t('payments.whatTheBankGets') }}</p>
      <label v-if="groups.length" class="flex items-center gap-2"
        ><span class="w-20 shrink-0 text-muted">{{ t('payments.onePayment') }}</span
        ><USelect
          :model-value="payments.group ?? '·'"
          :items="each"
          size="xs"
          class="min-w-0 grow"
          :aria-label="t('payments.onePayment')"
          @update:model-value="value => edit(now => setPaymentGroup(now, table!.id, value === '·' ? undefined : String(value)))"
      /></label>
      <SheetRuleField
        v-for="term in shown"
        :key="term.id"
        :value="payments.terms[term.id] ?? ''"
        :scope="scope"
        :test="false"
        :label="tell(term.name)"
        :hint="t('einvoice.notFilled')"
        @set="edit(now => setPaymentTerm(now, table!.id, term.id, $event))"
      />
      <USelectMenu
        v-if="others.length"
        :model-value="undefined"
        :items="others"
        value-key="value"
        size="xs"
        class="w-full"
        :placeholder="t('payments.fillAnother')"
        :aria-label="t('payments.fillAnother')"
        @update:model-value="value => value && picked.push(String(value))"
      />
      <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-wand-sparkles" class="self-start" @click="propose">{{
        t('einvoice.proposeAnew')
      }}</UButton>
    </template>
  </SheetSection>
</template>
