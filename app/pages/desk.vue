<script setup lang="ts">
import { add, compareDecimals, type Decimal, parseDecimal, subtract, zero } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'
import { dateFormat } from '../../core/value/dateFormat'
import { dayText, parseDay } from '../../core/value/date'
import { clock } from '../../demo/clock'

/** The simulated ERP: a journal entry posted here stands in every report at its next refresh. */
interface Named { code: string, name: string }
interface Desk { accounts: Named[], branches: Named[], departments: Named[], entries: { number: string, date: string, description: string, document: string, amount: string }[] }
interface Line { account: string, branch: string, department: string, debit: string, credit: string }
const desk = shallowRef<Desk>()
const problem = ref('')
const posting = ref(false)
const toast = useToast()
const fresh = (): Line => ({ account: '', branch: desk.value?.branches[0]?.code ?? '', department: '', debit: '', credit: '' })
const date = ref(dayText(clock))
const description = ref('')
const document = ref('')
const lines = ref<Line[]>([])
useHead({ title: 'Company desk · Estante' })
async function load(): Promise<void> {
  try {
    desk.value = await api<Desk>('/api/desk')
    if (!lines.value.length) lines.value = [fresh(), fresh()]
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
const amount = (text: string): Decimal => parseDecimal(text.trim().replace(',', '.')) ?? zero
const total = (side: 'debit' | 'credit') => lines.value.reduce<Decimal>((sum, line) => add(sum, amount(line[side])), zero)
const off = computed(() => subtract(total('debit'), total('credit')))
/** Branches in which debits and credits differ. */
const uneven = computed(() => [...new Set(lines.value.map(line => line.branch))].filter(branch => compareDecimals(lines.value.filter(line => line.branch === branch).reduce<Decimal>((sum, line) => add(sum, subtract(amount(line.debit), amount(line.credit))), zero), zero) !== 0))
const ready = computed(() => description.value.trim() !== '' && !uneven.value.length && compareDecimals(total('debit'), zero) > 0 && lines.value.filter(line => line.debit || line.credit).every(line => line.account))
const print = numberFormat('#,##0.00', 'en-GB')
const dated = dateFormat('d MMM y', 'en-GB')
const name = (code: string) => desk.value?.accounts.find(each => each.code === code)?.name ?? ''
function next(index: number): void {
  // the last line asks for another, with what is missing to balance
  if (index === lines.value.length - 1) lines.value.push(fresh())
}
async function post(): Promise<void> {
  posting.value = true
  problem.value = ''
  try {
    const kept = lines.value.filter(line => line.debit.trim() || line.credit.trim()).map(line => ({ ...line, debit: line.debit.trim().replace(',', '.'), credit: line.credit.trim().replace(',', '.') }))
    const { number } = await api<{ number: string }>('/api/desk/entries', { method: 'POST', body: { date: date.value, description: description.value, document: document.value, lines: kept } })
    toast.add({ title: `Posted as ${number}. Reports show it when they are refreshed.`, icon: 'i-lucide-check', color: 'success' })
    description.value = document.value = ''
    lines.value = [fresh(), fresh()]
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    posting.value = false
  }
}
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar home />
    <Notice v-if="problem" :text="problem" kind="error" />
    <main class="min-h-0 grow overflow-auto">
      <div class="mx-auto max-w-[1120px] p-6">
        <h1 class="font-display text-lg font-semibold">Company desk</h1>
        <p class="pb-4 text-sm text-muted">A stand-in for the company’s ERP: what is posted here stands in every report at its next refresh.</p>
        <form v-if="desk" class="rounded-lg border border-default bg-default p-4" aria-label="Journal entry" @submit.prevent="post">
          <h2 class="pb-3 text-sm font-semibold text-muted">Journal entry</h2>
          <div class="flex flex-wrap gap-4 pb-4">
            <label class="text-sm"><span class="block text-muted">Date</span><input v-model="date" type="date" class="mt-0.5 rounded-md border border-default bg-default px-2 py-1"></label>
            <label class="grow text-sm"><span class="block text-muted">Description</span><input v-model="description" class="mt-0.5 w-full rounded-md border border-default bg-default px-2 py-1" placeholder="What it is for"></label>
            <label class="text-sm"><span class="block text-muted">Document</span><input v-model="document" class="mt-0.5 w-40 rounded-md border border-default bg-default px-2 py-1" placeholder="none"></label>
          </div>
          <datalist id="desk-accounts"><option v-for="each in desk.accounts" :key="each.code" :value="each.code">{{ each.name }}</option></datalist>
          <table class="w-full text-sm">
            <thead><tr class="text-left text-muted"><th class="w-28 pb-1 font-medium">Account</th><th class="pb-1 font-medium">Name</th><th class="w-44 pb-1 font-medium">Branch</th><th class="w-40 pb-1 font-medium">Department</th><th class="w-32 pb-1 pr-4 text-right font-medium">Debit</th><th class="w-32 pb-1 pr-4 text-right font-medium">Credit</th><th class="w-8" /></tr></thead>
            <tbody>
              <tr v-for="(line, index) in lines" :key="index">
                <td class="py-0.5 pr-2"><input v-model="line.account" list="desk-accounts" class="w-full rounded-md border border-default bg-default px-2 py-1" :aria-label="`Account of line ${index + 1}`"></td>
                <td class="truncate pr-2 text-muted">{{ name(line.account) }}</td>
                <td class="py-0.5 pr-2"><select v-model="line.branch" class="w-full rounded-md border border-default bg-default px-1 py-1" :aria-label="`Branch of line ${index + 1}`"><option v-for="each in desk.branches" :key="each.code" :value="each.code">{{ each.name }}</option></select></td>
                <td class="py-0.5 pr-2"><select v-model="line.department" class="w-full rounded-md border border-default bg-default px-1 py-1" :aria-label="`Department of line ${index + 1}`"><option value="">none</option><option v-for="each in desk.departments" :key="each.code" :value="each.code">{{ each.name }}</option></select></td>
                <td class="py-0.5 pr-2"><input v-model="line.debit" inputmode="decimal" class="w-full rounded-md border border-default bg-default px-2 py-1 text-right tabular-nums" :aria-label="`Debit of line ${index + 1}`"></td>
                <td class="py-0.5 pr-2"><input v-model="line.credit" inputmode="decimal" class="w-full rounded-md border border-default bg-default px-2 py-1 text-right tabular-nums" :aria-label="`Credit of line ${index + 1}`" @keydown.tab.exact="next(index)"></td>
                <td><UButton v-if="lines.length > 2" size="xs" variant="ghost" color="neutral" icon="i-lucide-x" :aria-label="`Take line ${index + 1} away`" @click="lines.splice(index, 1)" /></td>
              </tr>
            </tbody>
            <tfoot><tr class="border-t border-default font-semibold"><td colspan="4" class="pt-2"><UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="lines.push(fresh())">line</UButton></td><td class="pr-4 pt-2 text-right tabular-nums">{{ print(total('debit')) }}</td><td class="pr-4 pt-2 text-right tabular-nums">{{ print(total('credit')) }}</td><td /></tr></tfoot>
          </table>
          <div class="flex items-center gap-3 pt-3"><UButton type="submit" :loading="posting" :disabled="!ready">Post</UButton>
            <span v-if="compareDecimals(off, zero) !== 0" class="text-sm text-error" role="status">Debits and credits differ by {{ print(compareDecimals(off, zero) < 0 ? subtract(zero, off) : off) }}.</span>
            <span v-else-if="uneven.length" class="text-sm text-error" role="status">It balances as a whole, and not within {{ uneven.map(code => desk!.branches.find(each => each.code === code)?.name).join(' and ') }}.</span>
          </div>
        </form>
        <section v-if="desk" class="pt-6" aria-label="Posted here"><h2 class="pb-2 text-sm font-semibold text-muted">Posted here</h2>
          <table v-if="desk.entries.length" class="w-full rounded-lg border border-default bg-default text-sm" data-desk-entries><thead><tr class="border-b border-default text-left text-muted"><th class="px-3 py-2 font-medium">Journal</th><th class="px-3 py-2 font-medium">Date</th><th class="px-3 py-2 font-medium">Description</th><th class="px-3 py-2 font-medium">Document</th><th class="px-3 py-2 text-right font-medium">Amount, EUR</th></tr></thead>
            <tbody><tr v-for="each in desk.entries" :key="each.number" class="border-b border-default last:border-0"><td class="px-3 py-1.5">{{ each.number }}</td><td class="px-3 py-1.5">{{ dated(parseDay(each.date)!) }}</td><td class="px-3 py-1.5">{{ each.description }}</td><td class="px-3 py-1.5">{{ each.document }}</td><td class="px-3 py-1.5 text-right tabular-nums">{{ print(parseDecimal(each.amount)!) }}</td></tr></tbody></table>
          <p v-else class="text-sm text-muted">Nothing has been posted at the desk yet.</p>
        </section>
      </div>
    </main>
  </div>
</template>
