<script setup lang="ts">
import type { DeskOffer } from '../../core/api/desk'
import { parseDecimal } from '../../core/value/decimal'
import { dateFormat } from '../../core/value/dateFormat'
import { parseDay } from '../../core/value/date'

const sources = useSources()

/** The simulated ERP: what is posted here stands in every report at its next refresh. */
const desk = shallowRef<DeskOffer>()
const problem = ref('')
const kinds = [
  { label: t('deskPage.journalEntry'), value: 'entry' },
  { label: t('common.invoice'), value: 'invoice' },
  { label: t('deskPage.receipt'), value: 'receipt' },
  { label: t('deskPage.bill'), value: 'bill' },
  { label: t('deskPage.closePeriod'), value: 'closing' },
] as const
const kind = ref<(typeof kinds)[number]['value']>('entry')
useHead({ title: t('deskPage.companyDeskEstante') })
async function load(): Promise<void> {
  try {
    desk.value = await api<DeskOffer>(sources.path('desk'))
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
const dated = dateFormat('d MMM y', locale())
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar home />
    <Notice v-if="problem" :text="problem" kind="error" />
    <main class="min-h-0 grow overflow-auto">
      <div class="mx-auto max-w-[1120px] p-6">
        <h1 class="font-display text-lg font-semibold">{{ t('deskPage.companyDesk') }}</h1>
        <p class="pb-4 text-sm text-muted">
          {{ t('deskPage.aStandInForThe') }}
        </p>
        <div v-if="desk" class="rounded-lg border border-default bg-default p-4">
          <UTabs v-model="kind" :items="[...kinds]" :content="false" size="sm" variant="link" class="pb-3" />
          <datalist id="desk-accounts">
            <option v-for="each in desk.accounts" :key="each.code" :value="each.code">{{ each.name }}</option>
          </datalist>
          <datalist id="desk-customers">
            <option v-for="each in desk.customers" :key="each.code" :value="each.code">{{ each.name }}</option>
          </datalist>
          <datalist id="desk-suppliers">
            <option v-for="each in desk.suppliers" :key="each.code" :value="each.code">{{ each.name }}</option>
          </datalist>
          <DeskEntryForm v-show="kind === 'entry'" :desk="desk" @posted="load" />
          <DeskInvoiceForm v-show="kind === 'invoice'" :desk="desk" @posted="load" />
          <DeskReceiptForm v-show="kind === 'receipt'" :desk="desk" @posted="load" />
          <DeskBillForm v-show="kind === 'bill'" :desk="desk" @posted="load" />
          <DeskClosingForm v-show="kind === 'closing'" :desk="desk" @posted="load" />
        </div>
        <section v-if="desk" class="pt-6" :aria-label="t('deskPage.postedHere')">
          <h2 class="pb-2 text-sm font-semibold text-muted">{{ t('deskPage.postedHere') }}</h2>
          <table v-if="desk.entries.length" class="w-full rounded-lg border border-default bg-default text-sm" data-desk-entries>
            <thead>
              <tr class="border-b border-default text-left text-muted">
                <th class="px-3 py-2 font-medium">{{ t('deskPage.journal') }}</th>
                <th class="px-3 py-2 font-medium">{{ t('common.date') }}</th>
                <th class="px-3 py-2 font-medium">{{ t('common.description') }}</th>
                <th class="px-3 py-2 font-medium">{{ t('common.document') }}</th>
                <th class="px-3 py-2 text-right font-medium">{{ t('deskPage.amountEur') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="each in desk.entries" :key="each.number" class="border-b border-default last:border-0">
                <td class="px-3 py-1.5">{{ each.number }}</td>
                <td class="px-3 py-1.5">{{ dated(parseDay(each.date)!) }}</td>
                <td class="px-3 py-1.5">{{ each.description }}</td>
                <td class="px-3 py-1.5">{{ each.document }}</td>
                <td class="px-3 py-1.5 text-right tabular-nums">{{ deskMoney(parseDecimal(each.amount)!) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="text-sm text-muted">{{ t('deskPage.nothingHasBeenPostedAt') }}</p>
        </section>
      </div>
    </main>
  </div>
</template>
