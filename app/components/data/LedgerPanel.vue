<script setup lang="ts">
import { readable } from '../../../core/catalog/types'
import { ledgerFilterColumns } from '../../../core/sql/ledger'
import { tableLevel } from '../../../core/model/levels'
import { tablesOf } from '../../../core/model/model'
import { putTable, removeTable } from '../../../core/definition/edits/dataSets'

/** The books as rows for statements: where they come from, and which accounts, branches and departments count. */
const { name } = defineProps<{ name: string }>()
const report = useReport()
const data = useData()
const own = computed(() => report.definition!.tables?.find(each => each.name === name && each.kind === 'ledger'))
const level = tableLevel({ schema: '', name: `@${name}`, columns: ledgerFilterColumns, primaryKey: [], rowEstimate: 0 }, name)
const map = computed(() => report.catalog?.ledger)
const used = computed(() => report.definition!.dataSets.some(dataSet => tablesOf(dataSet.root).includes(`@${name}`)))
const facts = computed(() =>
  map.value
    ? [
        ['Accounts', readable(map.value.accounts.table)],
        ['Journal lines', readable(map.value.lines.table)],
        ...(map.value.budgets ? [['Budgets', readable(map.value.budgets.table)]] : []),
        ['Results are kept in', map.value.retainedEarnings],
        ['Closing journals', map.value.closing ? 'marked, and left out' : 'not marked'],
      ]
    : [],
)
</script>

<template>
  <DataSidePanel title="The books" data-books>
    <p v-if="!map" class="text-sm text-error">This source does not say where its books are; say it under Sources.</p>
    <template v-else>
      <dl class="space-y-1.5 text-sm">
        <div v-for="[label, value] in facts" :key="label" class="flex gap-3">
          <dt class="w-36 shrink-0 text-muted">{{ label }}</dt>
          <dd>{{ value }}</dd>
        </div>
      </dl>
      <p class="text-sm text-muted">One row for each account and period; the periods are those that the statements of this report need.</p>
      <h3 class="pt-2 text-sm font-semibold">Only where</h3>
      <DataFilterLine
        v-if="own?.kind === 'ledger'"
        :level="level"
        :filters="own.filters"
        bare
        @change="filters => report.edit('Filter of the books', now => putTable(now, { kind: 'ledger', name, filters }, name))"
      />
    </template>
    <template #footer>
      <UButton
        size="sm"
        variant="ghost"
        color="error"
        icon="i-lucide-trash-2"
        :disabled="used"
        :title="used ? 'A level reads it; let that read another table first.' : ''"
        @click="
          () => {
            report.edit(`Remove ${name}`, now => removeTable(now, name))
            data.panel = undefined
          }
        "
        >Take out</UButton
      >
    </template>
  </DataSidePanel>
</template>
