<script setup lang="ts">
import { readable } from '../../core/catalog/types'
import type { LedgerCheck } from '../../core/dataset/ledgerChecks'
import type { LedgerMap } from '../../core/statement/ledger'

/** The books of a source: which tables and columns hold them, and what checking them against the data says. */
const emit = defineEmits<{ close: [], problem: [text: string] }>()
const found = shallowRef<{ ledger?: LedgerMap, checks?: LedgerCheck[] }>()
onMounted(async () => {
  try {
    found.value = await api('/api/sources/books')
  } catch (error) {
    emit('problem', (error as Error).message)
  }
})
const columns = (table: string, ...names: (string | undefined)[]) => `${readable(table)}: ${names.filter(Boolean).map(name => readable(name!).toLowerCase()).join(', ')}`
const facts = computed(() => {
  const map = found.value?.ledger
  if (!map) return []
  return [
    ['Accounts', columns(map.accounts.table, map.accounts.code, map.accounts.name, map.accounts.type, map.accounts.class)], ['Journal lines', columns(map.lines.table, map.lines.account, map.lines.debit, map.lines.credit, map.lines.amount, map.lines.branch, map.lines.department)],
    ['Dates and periods', columns(map.journals?.table ?? map.lines.table, map.date, map.period?.year, map.period?.number, map.closing)], ...(map.budgets ? [['Budgets', columns(map.budgets.table, map.budgets.version, map.budgets.account, map.budgets.branch, map.budgets.amount)]] : []),
    ['Types', Object.entries(map.types).map(([word, nature]) => word === nature ? word : `${word} = ${nature}`).join(', ')],
  ]
})
</script>

<template>
  <section class="border-b border-default bg-default px-6 py-4 text-sm" aria-label="The books" data-source-books>
    <div class="flex items-center pb-2"><h2 class="font-display text-base font-semibold">The books</h2><span class="pl-3 text-muted">what statements are made from, found from tables, keys and names</span><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-x" class="ml-auto" aria-label="Close the books" @click="emit('close')" /></div>
    <p v-if="!found" class="text-muted">Checking the books …</p>
    <p v-else-if="!found.ledger" class="text-muted">No books were found: a table of accounts with a code, a name and a type is needed, and lines that point at it with debit and credit.</p>
    <div v-else class="flex flex-wrap gap-x-10 gap-y-3">
      <dl class="space-y-1"><div v-for="[label, value] in facts" :key="label" class="flex gap-3"><dt class="w-36 shrink-0 text-muted">{{ label }}</dt><dd>{{ value }}</dd></div></dl>
      <ul class="space-y-1" aria-label="Checks"><li v-for="each in found.checks" :key="each.sentence" class="flex items-center gap-2"><UIcon :name="each.holds ? 'i-lucide-check' : 'i-lucide-x'" class="size-4 shrink-0" :class="each.holds ? 'text-success' : 'text-error'" />{{ each.sentence }}</li></ul>
    </div>
  </section>
</template>
