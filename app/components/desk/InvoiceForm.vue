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
  <form aria-label="Invoice" @submit.prevent="post">
    <div class="flex flex-wrap gap-4 pb-4">
      <label class="text-sm">
        <span class="block text-muted">Date</span>
        <DayField v-model="date" size="md" class="w-full" label="Date" />
      </label>
      <label class="w-32 text-sm"
        ><span class="block text-muted">Customer</span
        ><input v-model="customer" list="desk-customers" :class="deskField" placeholder="C-0001"
      /></label>
      <p class="min-w-0 grow self-end truncate pb-1.5 text-sm text-muted">{{ buyer ? `${buyer.name}, in ${buyer.currency}` : '' }}</p>
      <label class="w-44 text-sm"
        ><span class="block text-muted">Branch</span
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
          <th class="w-36 pb-1 font-medium">Item or account</th>
          <th class="pb-1 font-medium">Description</th>
          <th class="w-28 pb-1 pr-4 text-right font-medium">Quantity</th>
          <th class="w-12 pb-1 font-medium">Unit</th>
          <th class="w-32 pb-1 pr-4 text-right font-medium">Price</th>
          <th class="w-32 pb-1 pr-4 text-right font-medium">Amount</th>
          <th class="w-8" />
        </tr>
      </thead>
      <tbody>
        <tr v-for="(line, index) in lines" :key="index">
          <td class="py-0.5 pr-2">
            <input v-model="line.what" list="desk-sold" :class="deskField" :aria-label="`Item or account of line ${index + 1}`" />
          </td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.description"
              :class="deskField"
              :placeholder="item(line)?.name ?? account(line)?.name ?? ''"
              :aria-label="`Description of line ${index + 1}`"
            />
          </td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.quantity"
              inputmode="decimal"
              class="text-right tabular-nums"
              :class="deskField"
              :aria-label="`Quantity of line ${index + 1}`"
            />
          </td>
          <td class="text-muted">{{ item(line)?.unit ?? (account(line) ? 'h' : '') }}</td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.price"
              inputmode="decimal"
              class="text-right tabular-nums"
              :class="deskField"
              :placeholder="item(line)?.price ?? ''"
              :aria-label="`Price of line ${index + 1}`"
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
              :aria-label="`Take line ${index + 1} away`"
              @click="lines.splice(index, 1)"
            />
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr class="border-t border-default font-semibold">
          <td colspan="5" class="pt-2">
            <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="lines.push(fresh())">line</UButton>
          </td>
          <td class="pr-4 pt-2 text-right tabular-nums">{{ deskMoney(goods) }}</td>
          <td />
        </tr>
      </tfoot>
    </table>
    <div class="flex flex-wrap items-end gap-4 pt-3">
      <label class="w-32 text-sm"
        ><span class="block text-muted">Freight</span
        ><input v-model="freight" inputmode="decimal" class="text-right tabular-nums" :class="deskField" placeholder="none"
      /></label>
      <label class="w-32 text-sm"
        ><span class="block text-muted">Discount</span
        ><input v-model="discount" inputmode="decimal" class="text-right tabular-nums" :class="deskField" placeholder="none"
      /></label>
      <p class="pb-1.5 text-sm text-muted">Tax and due date follow from the items, the day and the customer’s terms.</p>
    </div>
    <div class="flex items-center gap-3 pt-3">
      <UButton type="submit" :loading="posting" :disabled="!ready">Post</UButton
      ><span v-if="problem" class="text-sm text-error" role="alert">{{ problem }}</span>
    </div>
  </form>
</template>
