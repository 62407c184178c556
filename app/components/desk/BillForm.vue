<script setup lang="ts">
import type { DeskOffer } from '../../../core/api/desk'
import { add, type Decimal, zero } from '../../../core/value/decimal'
import { dayText } from '../../../core/value/date'

/** A supplier's bill: what was bought, by account, before tax. */
interface Line {
  account: string
  department: string
  description: string
  amount: string
}
const props = defineProps<{ desk: DeskOffer }>()
const emit = defineEmits<{ posted: [] }>()
const { problem, posting, send } = useDeskPost(() => emit('posted'))
const fresh = (): Line => ({ account: '', department: '', description: '', amount: '' })
const date = ref(dayText(useSources().today))
const supplier = ref('')
const branch = ref(props.desk.branches[0]?.code ?? '')
const number = ref('')
const lines = ref<Line[]>([fresh()])
const seller = computed(() => props.desk.suppliers.find(each => each.code === supplier.value))
const name = (code: string) => props.desk.accounts.find(each => each.code === code)?.name ?? ''
const goods = computed(() => lines.value.reduce<Decimal>((sum, line) => add(sum, typedAmount(line.amount)), zero))
const ready = computed(() => supplier.value.trim() && number.value.trim() && lines.value.some(line => line.account && line.amount.trim()))
async function post(): Promise<void> {
  const bought = lines.value
    .filter(line => line.account || line.amount.trim())
    .map(line => ({ ...line, description: line.description.trim() || name(line.account), amount: typedNumber(line.amount) }))
  if (
    !(await send({
      kind: 'bill',
      bill: { date: date.value, supplier: supplier.value, branch: branch.value, supplierNumber: number.value, lines: bought },
    }))
  )
    return
  supplier.value = number.value = ''
  lines.value = [fresh()]
}
</script>

<template>
  <form :aria-label="t('billForm.bill')" @submit.prevent="post">
    <div class="flex flex-wrap gap-4 pb-4">
      <label class="text-sm">
        <span class="block text-muted">{{ t('common.date') }}</span>
        <DayField v-model="date" size="md" class="w-full" :label="t('common.date')" />
      </label>
      <label class="w-32 text-sm"
        ><span class="block text-muted">{{ t('billForm.supplier') }}</span
        ><input v-model="supplier" list="desk-suppliers" :class="deskField" :placeholder="t('billForm.v001')"
      /></label>
      <p class="min-w-0 grow self-end truncate pb-1.5 text-sm text-muted">
        {{ seller ? t('common.in', { name: seller.name, currency: seller.currency }) : '' }}
      </p>
      <label class="w-40 text-sm"
        ><span class="block text-muted">{{ t('billForm.numberOnTheBill') }}</span
        ><input v-model="number" :class="deskField"
      /></label>
      <label class="w-44 text-sm"
        ><span class="block text-muted">{{ t('common.branch') }}</span
        ><PickField v-model="branch" class="w-full">
          <option v-for="each in desk.branches" :key="each.code" :value="each.code">{{ each.name }}</option>
        </PickField></label
      >
    </div>
    <table class="w-full text-sm">
      <thead>
        <tr class="text-left text-muted">
          <th class="w-28 pb-1 font-medium">{{ t('common.account') }}</th>
          <th class="pb-1 font-medium">{{ t('common.description') }}</th>
          <th class="w-40 pb-1 font-medium">{{ t('billForm.department') }}</th>
          <th class="w-36 pb-1 pr-4 text-right font-medium">{{ t('billForm.amountBeforeTax') }}</th>
          <th class="w-8" />
        </tr>
      </thead>
      <tbody>
        <tr v-for="(line, index) in lines" :key="index">
          <td class="py-0.5 pr-2">
            <input
              v-model="line.account"
              list="desk-accounts"
              :class="deskField"
              :aria-label="t('billForm.accountOfLine', { what: index + 1 })"
            />
          </td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.description"
              :class="deskField"
              :placeholder="name(line.account)"
              :aria-label="t('billForm.descriptionOfLine', { what: index + 1 })"
            />
          </td>
          <td class="py-0.5 pr-2">
            <PickField v-model="line.department" class="w-full" :aria-label="t('billForm.departmentOfLine', { what: index + 1 })">
              <option value="">{{ t('common.none') }}</option>
              <option v-for="each in desk.departments" :key="each.code" :value="each.code">{{ each.name }}</option>
            </PickField>
          </td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.amount"
              inputmode="decimal"
              class="text-right tabular-nums"
              :class="deskField"
              :aria-label="t('billForm.amountOfLine', { what: index + 1 })"
            />
          </td>
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
          <td colspan="3" class="pt-2">
            <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="lines.push(fresh())">{{ t('common.line2') }}</UButton>
          </td>
          <td class="pr-4 pt-2 text-right tabular-nums">{{ deskMoney(goods) }}</td>
          <td />
        </tr>
      </tfoot>
    </table>
    <p class="pt-2 text-sm text-muted">{{ t('billForm.taxFollowsFromTheSupplier') }}</p>
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
