<script setup lang="ts">
import type { DeskOffer } from '../../../core/api/desk'
import { add, type Decimal, multiply, round, zero } from '../../../core/value/decimal'
import { dayText } from '../../../core/value/date'

/**
 * An invoice to a customer: items at their prices, or work on an account of income. Tax, due date and cost of goods follow from the
 * company's rules.
 */
interface Line {
  what: string
  description: string
  quantity: string
  price: string
}
const props = defineProps<{ desk: DeskOffer }>()
const emit = defineEmits<{ posted: [] }>()
const { problem, posting, send } = useDeskPost(() => emit('posted'))
const fresh = (): Line => ({ what: '', description: '', quantity: '1', price: '' })
const date = ref(dayText(useSources().today))
const customer = ref('')
const branch = ref(props.desk.branches[0]?.code ?? '')
const freight = ref('')
const discount = ref('')
const lines = ref<Line[]>([fresh()])
const buyer = computed(() => props.desk.customers.find(each => each.code === customer.value))
watch(buyer, found => found?.branch && (branch.value = found.branch))
const incomes = computed(() => props.desk.accounts.filter(each => each.type === 'income'))
const item = (line: Line) => props.desk.items.find(each => each.code === line.what)
const account = (line: Line) => (item(line) ? undefined : incomes.value.find(each => each.code === line.what))
const price = (line: Line) => typedAmount(line.price || item(line)?.price || '')
const amount = (line: Line) => round(multiply(typedAmount(line.quantity), price(line)), 2)
const goods = computed(() => lines.value.reduce<Decimal>((sum, line) => add(sum, amount(line)), zero))
const ready = computed(() => customer.value !== '' && lines.value.some(line => line.what))
async function post(): Promise<void> {
  const sold = lines.value
    .filter(line => line.what)
    .map(line => ({
      ...(account(line) ? { account: line.what } : { item: line.what }),
      quantity: typedNumber(line.quantity),
      ...(line.description.trim() ? { description: line.description } : {}),
      ...(line.price.trim() ? { price: typedNumber(line.price) } : {}),
    }))
  if (
    !(await send({
      kind: 'invoice',
      invoice: {
        date: date.value,
        customer: customer.value,
        branch: branch.value,
        freight: typedNumber(freight.value),
        discount: typedNumber(discount.value),
        lines: sold,
      },
    }))
  )
    return
  customer.value = freight.value = discount.value = ''
  lines.value = [fresh()]
}
</script>

<template>
  <form :aria-label="t('common.invoice')" @submit.prevent="post">
    <div class="flex flex-wrap gap-4 pb-4">
      <label class="text-sm">
        <span class="block text-muted">{{ t('common.date') }}</span>
        <DayField v-model="date" size="md" class="w-full" :label="t('common.date')" />
      </label>
      <label class="w-32 text-sm"
        ><span class="block text-muted">{{ t('invoiceForm.customer') }}</span
        ><input v-model="customer" list="desk-customers" :class="deskField" :placeholder="t('invoiceForm.c0001')"
      /></label>
      <p class="min-w-0 grow self-end truncate pb-1.5 text-sm text-muted">
        {{ buyer ? t('common.in', { name: buyer.name, currency: buyer.currency }) : '' }}
      </p>
      <label class="w-44 text-sm"
        ><span class="block text-muted">{{ t('common.branch') }}</span
        ><PickField v-model="branch" class="w-full">
          <option v-for="each in desk.branches" :key="each.code" :value="each.code">{{ each.name }}</option>
        </PickField></label
      >
    </div>
    <datalist id="desk-sold">
      <option v-for="each in desk.items" :key="each.code" :value="each.code">{{ each.name }}</option>
      <option v-for="each in incomes" :key="each.code" :value="each.code">{{ each.name }}</option>
    </datalist>
    <table class="w-full text-sm">
      <thead>
        <tr class="text-left text-muted">
          <th class="w-36 pb-1 font-medium">{{ t('invoiceForm.itemOrAccount') }}</th>
          <th class="pb-1 font-medium">{{ t('common.description') }}</th>
          <th class="w-28 pb-1 pr-4 text-right font-medium">{{ t('invoiceForm.quantity') }}</th>
          <th class="w-12 pb-1 font-medium">{{ t('invoiceForm.unit') }}</th>
          <th class="w-32 pb-1 pr-4 text-right font-medium">{{ t('invoiceForm.price') }}</th>
          <th class="w-32 pb-1 pr-4 text-right font-medium">{{ t('common.amount') }}</th>
          <th class="w-8" />
        </tr>
      </thead>
      <tbody>
        <tr v-for="(line, index) in lines" :key="index">
          <td class="py-0.5 pr-2">
            <input
              v-model="line.what"
              list="desk-sold"
              :class="deskField"
              :aria-label="t('invoiceForm.itemOrAccountOfLine', { what: index + 1 })"
            />
          </td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.description"
              :class="deskField"
              :placeholder="item(line)?.name ?? account(line)?.name ?? ''"
              :aria-label="t('invoiceForm.descriptionOfLine', { what: index + 1 })"
            />
          </td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.quantity"
              inputmode="decimal"
              class="text-right tabular-nums"
              :class="deskField"
              :aria-label="t('invoiceForm.quantityOfLine', { what: index + 1 })"
            />
          </td>
          <td class="text-muted">{{ item(line)?.unit ?? (account(line) ? t('invoiceForm.h') : '') }}</td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.price"
              inputmode="decimal"
              class="text-right tabular-nums"
              :class="deskField"
              :placeholder="item(line)?.price ?? ''"
              :aria-label="t('invoiceForm.priceOfLine', { what: index + 1 })"
            />
          </td>
          <td class="pr-4 text-right tabular-nums">{{ deskMoney(amount(line)) }}</td>
          <td>
            <UButton
              v-if="lines.length > 1"
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-x"
              :aria-label="t('common.takeLineAway', { what: index + 1 })"
              @click="lines.splice(index, 1)"
            />
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr class="border-t border-default font-semibold">
          <td colspan="5" class="pt-2">
            <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="lines.push(fresh())">{{ t('common.line2') }}</UButton>
          </td>
          <td class="pr-4 pt-2 text-right tabular-nums">{{ deskMoney(goods) }}</td>
          <td />
        </tr>
      </tfoot>
    </table>
    <div class="flex flex-wrap items-end gap-4 pt-3">
      <label class="w-32 text-sm"
        ><span class="block text-muted">{{ t('invoiceForm.freight') }}</span
        ><input v-model="freight" inputmode="decimal" class="text-right tabular-nums" :class="deskField" :placeholder="t('common.none')"
      /></label>
      <label class="w-32 text-sm"
        ><span class="block text-muted">{{ t('invoiceForm.discount') }}</span
        ><input v-model="discount" inputmode="decimal" class="text-right tabular-nums" :class="deskField" :placeholder="t('common.none')"
      /></label>
      <p class="pb-1.5 text-sm text-muted">{{ t('invoiceForm.taxAndDueDateFollow') }}</p>
    </div>
    <div class="flex items-center gap-3 pt-3">
      <UButton type="submit" :loading="posting" :disabled="!ready">{{ t('common.post') }}</UButton><span
        v-if="problem"
        class="text-sm text-error"
        role="alert"
        >{{ tell(problem) }}</span
      >
    </div>
  </form>
</template>
