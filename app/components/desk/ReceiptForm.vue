<script setup lang="ts">
import type { DeskOffer } from '../../../core/api/desk'
import { add, compareDecimals, type Decimal, decimalText, parseDecimal, subtract, zero } from '../../../core/value/decimal'
import { dayText, parseDay } from '../../../core/value/date'
import { dateFormat } from '../../../core/value/dateFormat'

/** Money from a customer, and the open invoices that it pays. */
const props = defineProps<{ desk: DeskOffer }>()
const emit = defineEmits<{ posted: [] }>()
const { problem, posting, send } = useDeskPost(() => emit('posted'))
const date = ref(dayText(useSources().today))
const customer = ref('')
const branch = ref(props.desk.branches[0]?.code ?? '')
const amount = ref('')
const open = shallowRef<{ number: string; date: string; due: string; open: string }[]>([])
const pays = ref<Record<string, string>>({})
const payer = computed(() => props.desk.customers.find(each => each.code === customer.value))
const dated = dateFormat('d MMM y', locale())
const day = (text: string) => (text ? dated(parseDay(text)!) : t('common.none'))
watch(payer, found => found?.branch && (branch.value = found.branch))
watch([payer, branch], refresh)
async function refresh(): Promise<void> {
  pays.value = {}
  open.value = payer.value
    ? await api<typeof open.value>(
        useSources().path(`desk/open?${new URLSearchParams({ customer: customer.value, branch: branch.value })}`),
      ).catch(() => [])
    : []
}
const used = computed(() => Object.values(pays.value).reduce<Decimal>((sum, text) => add(sum, typedAmount(text)), zero))
const left = computed(() => subtract(typedAmount(amount.value), used.value))
/** Spends what was received on the oldest invoices first. */
function spread(): void {
  let rest = typedAmount(amount.value)
  pays.value = Object.fromEntries(
    open.value.flatMap(each => {
      const owed = parseDecimal(each.open)!
      const part = compareDecimals(rest, owed) < 0 ? rest : owed
      if (compareDecimals(part, zero) <= 0) return []
      rest = subtract(rest, part)
      return [[each.number, decimalText(part)]]
    }),
  )
}
async function post(): Promise<void> {
  const paid = Object.entries(pays.value)
    .filter(([, text]) => text.trim())
    .map(([invoice, text]) => ({ invoice, amount: typedNumber(text) }))
  if (
    !(await send({
      kind: 'receipt',
      receipt: { date: date.value, customer: customer.value, branch: branch.value, amount: typedNumber(amount.value), pays: paid },
    }))
  )
    return
  amount.value = ''
  customer.value = ''
}
</script>

<template>
  <form :aria-label="t('receiptForm.receipt')" @submit.prevent="post">
    <div class="flex flex-wrap gap-4 pb-4">
      <label class="text-sm">
        <span class="block text-muted">{{ t('common.date') }}</span>
        <DayField v-model="date" size="md" class="w-full" :label="t('common.date')" />
      </label>
      <label class="w-32 text-sm"
        ><span class="block text-muted">{{ t('receiptForm.customer') }}</span
        ><input v-model="customer" list="desk-customers" :class="deskField" :placeholder="t('receiptForm.c0001')"
      /></label>
      <p class="min-w-0 grow self-end truncate pb-1.5 text-sm text-muted">
        {{ payer ? t('common.in', { name: payer.name, currency: payer.currency }) : '' }}
      </p>
      <label class="w-44 text-sm"
        ><span class="block text-muted">{{ t('common.branch') }}</span
        ><PickField v-model="branch" class="w-full">
          <option v-for="each in desk.branches" :key="each.code" :value="each.code">{{ each.name }}</option>
        </PickField></label
      >
      <label class="w-32 text-sm"
        ><span class="block text-muted">{{ t('receiptForm.received') }}</span
        ><input v-model="amount" inputmode="decimal" class="text-right tabular-nums" :class="deskField" placeholder="0.00"
      /></label>
    </div>
    <table v-if="open.length" class="w-full text-sm">
      <thead>
        <tr class="text-left text-muted">
          <th class="pb-1 font-medium">{{ t('common.invoice') }}</th>
          <th class="pb-1 font-medium">{{ t('common.date') }}</th>
          <th class="pb-1 font-medium">{{ t('receiptForm.due') }}</th>
          <th class="w-32 pb-1 pr-4 text-right font-medium">{{ t('receiptForm.open') }}</th>
          <th class="w-32 pb-1 pr-4 text-right font-medium">{{ t('receiptForm.paidWithThis') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="each in open" :key="each.number">
          <td class="py-0.5">{{ each.number }}</td>
          <td>{{ day(each.date) }}</td>
          <td>{{ day(each.due) }}</td>
          <td class="pr-4 text-right tabular-nums">{{ deskMoney(parseDecimal(each.open)!) }}</td>
          <td class="py-0.5 pr-2">
            <input
              v-model="pays[each.number]"
              inputmode="decimal"
              class="text-right tabular-nums"
              :class="deskField"
              :aria-label="t('receiptForm.paidOf', { number: each.number })"
            />
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr class="border-t border-default font-semibold">
          <td colspan="4" class="pt-2">
            <UButton size="xs" variant="ghost" icon="i-lucide-list-checks" :disabled="!amount.trim()" @click="spread">{{
              t('receiptForm.payTheOldestFirst')
            }}</UButton>
          </td>
          <td class="pr-4 pt-2 text-right tabular-nums">{{ deskMoney(used) }}</td>
        </tr>
      </tfoot>
    </table>
    <p v-else-if="payer" class="text-sm text-muted">
      {{ t('receiptForm.noInvoiceOfThisCustomer') }}
    </p>
    <p v-else class="text-sm text-muted">{{ t('receiptForm.chooseACustomerToSee') }}</p>
    <div class="flex items-center gap-3 pt-3">
      <UButton type="submit" :loading="posting" :disabled="!customer.trim() || !amount.trim() || compareDecimals(left, zero) < 0">{{
        t('common.post')
      }}</UButton>
      <span v-if="problem" class="text-sm text-error" role="alert">{{ tell(problem) }}</span>
      <span v-else-if="compareDecimals(left, zero) < 0" class="text-sm text-error" role="status">{{
        t('receiptForm.theInvoicesTakeMoreThan', { deskMoney: deskMoney(subtract(zero, left)) })
      }}</span>
      <span v-else-if="compareDecimals(left, zero) > 0" class="text-sm text-muted" role="status">{{
        t('receiptForm.staysOnTheCustomerS', { left: deskMoney(left) })
      }}</span>
    </div>
  </form>
</template>
