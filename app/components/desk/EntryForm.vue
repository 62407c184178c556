<script setup lang="ts">
import type { DeskOffer } from '../../../core/api/desk'
import { add, compareDecimals, type Decimal, subtract, zero } from '../../../core/value/decimal'
import { dayText } from '../../../core/value/date'

/** A journal entry: it must balance within each branch. */
interface Line {
  account: string
  branch: string
  department: string
  debit: string
  credit: string
}
const props = defineProps<{ desk: DeskOffer }>()
const emit = defineEmits<{ posted: [] }>()
const { problem, posting, send } = useDeskPost(() => emit('posted'))
const fresh = (): Line => ({ account: '', branch: props.desk.branches[0]?.code ?? '', department: '', debit: '', credit: '' })
const date = ref(dayText(useSources().today))
const description = ref('')
const document = ref('')
const lines = ref<Line[]>([fresh(), fresh()])
const total = (side: 'debit' | 'credit') => lines.value.reduce<Decimal>((sum, line) => add(sum, typedAmount(line[side])), zero)
const off = computed(() => subtract(total('debit'), total('credit')))
/** Branches in which debits and credits differ. */
const uneven = computed(() =>
  [...new Set(lines.value.map(line => line.branch))].filter(
    branch =>
      compareDecimals(
        lines.value
          .filter(line => line.branch === branch)
          .reduce<Decimal>((sum, line) => add(sum, subtract(typedAmount(line.debit), typedAmount(line.credit))), zero),
        zero,
      ) !== 0,
  ),
)
const ready = computed(
  () =>
    description.value.trim() !== '' &&
    !uneven.value.length &&
    compareDecimals(total('debit'), zero) > 0 &&
    lines.value.filter(line => line.debit || line.credit).every(line => line.account),
)
const name = (code: string) => props.desk.accounts.find(each => each.code === code)?.name ?? ''
function next(index: number): void {
  // the last line asks for another
  if (index === lines.value.length - 1) lines.value.push(fresh())
}
async function post(): Promise<void> {
  const kept = lines.value
    .filter(line => line.debit.trim() || line.credit.trim())
    .map(line => ({ ...line, debit: typedNumber(line.debit), credit: typedNumber(line.credit) }))
  if (!(await send({ kind: 'entry', entry: { date: date.value, description: description.value, document: document.value, lines: kept } })))
    return
  description.value = document.value = ''
  lines.value = [fresh(), fresh()]
}
</script>

<template>
  <form :aria-label="t('entryForm.journalEntry')" @submit.prevent="post">
    <div class="flex flex-wrap gap-4 pb-4">
      <label class="text-sm">
        <span class="block text-muted">{{ t('common.date') }}</span>
        <DayField v-model="date" size="md" class="w-full" :label="t('common.date')" />
      </label>
      <label class="grow text-sm"
        ><span class="block text-muted">{{ t('common.description') }}</span
        ><input v-model="description" :class="deskField" :placeholder="t('entryForm.whatItIsFor')"
      /></label>
      <label class="w-40 text-sm"
        ><span class="block text-muted">{{ t('common.document') }}</span
        ><input v-model="document" :class="deskField" :placeholder="t('common.none')"
      /></label>
    </div>
    <table class="w-full text-sm">
      <thead>
        <tr class="text-left text-muted">
          <th class="w-28 pb-1 font-medium">{{ t('common.account') }}</th>
          <th class="pb-1 font-medium">{{ t('common.name') }}</th>
          <th class="w-44 pb-1 font-medium">{{ t('common.branch') }}</th>
          <th class="w-40 pb-1 font-medium">{{ t('entryForm.department') }}</th>
          <th class="w-32 pb-1 pr-4 text-right font-medium">{{ t('entryForm.debit') }}</th>
          <th class="w-32 pb-1 pr-4 text-right font-medium">{{ t('entryForm.credit') }}</th>
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
              :aria-label="t('entryForm.accountOfLine', { what: index + 1 })"
            />
          </td>
          <td class="truncate pr-2 text-muted">{{ name(line.account) }}</td>
          <td class="py-0.5 pr-2">
            <PickField v-model="line.branch" class="w-full" :aria-label="t('entryForm.branchOfLine', { what: index + 1 })">
              <option v-for="each in desk.branches" :key="each.code" :value="each.code">{{ each.name }}</option>
            </PickField>
          </td>
          <td class="py-0.5 pr-2">
            <PickField v-model="line.department" class="w-full" :aria-label="t('entryForm.departmentOfLine', { what: index + 1 })">
              <option value="">{{ t('common.none') }}</option>
              <option v-for="each in desk.departments" :key="each.code" :value="each.code">{{ each.name }}</option>
            </PickField>
          </td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.debit"
              inputmode="decimal"
              class="text-right tabular-nums"
              :class="deskField"
              :aria-label="t('entryForm.debitOfLine', { what: index + 1 })"
            />
          </td>
          <td class="py-0.5 pr-2">
            <input
              v-model="line.credit"
              inputmode="decimal"
              class="text-right tabular-nums"
              :class="deskField"
              :aria-label="t('entryForm.creditOfLine', { what: index + 1 })"
              @keydown.tab.exact="next(index)"
            />
          </td>
          <td>
            <UButton
              v-if="lines.length > 2"
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
          <td colspan="4" class="pt-2">
            <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="lines.push(fresh())">{{ t('common.line2') }}</UButton>
          </td>
          <td class="pr-4 pt-2 text-right tabular-nums">{{ deskMoney(total('debit')) }}</td>
          <td class="pr-4 pt-2 text-right tabular-nums">{{ deskMoney(total('credit')) }}</td>
          <td />
        </tr>
      </tfoot>
    </table>
    <div class="flex items-center gap-3 pt-3">
      <UButton type="submit" :loading="posting" :disabled="!ready">{{ t('common.post') }}</UButton>
      <span v-if="problem" class="text-sm text-error" role="alert">{{ tell(problem) }}</span>
      <span v-else-if="compareDecimals(off, zero) !== 0" class="text-sm text-error" role="status">{{
        t('entryForm.debitsAndCreditsDifferBy', { deskMoney: deskMoney(compareDecimals(off, zero) < 0 ? subtract(zero, off) : off) })
      }}</span>
      <span v-else-if="uneven.length" class="text-sm text-error" role="status">{{
        t('entryForm.itBalancesAsAWhole', { map: uneven.map(code => desk.branches.find(each => each.code === code)?.name).join(' and ') })
      }}</span>
    </div>
  </form>
</template>
