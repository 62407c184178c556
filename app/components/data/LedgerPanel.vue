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
        [t('ledgerPanel.accounts'), readable(map.value.accounts.table)],
        [t('ledgerPanel.journalLines'), readable(map.value.lines.table)],
        ...(map.value.budgets ? [[t('ledgerPanel.budgets'), readable(map.value.budgets.table)]] : []),
        [t('ledgerPanel.resultsAreKeptIn'), map.value.retainedEarnings],
        [t('ledgerPanel.closingJournals'), map.value.closing ? t('ledgerPanel.markedAndLeftOut') : t('ledgerPanel.notMarked')],
      ]
    : [],
)
</script>

<template>
  <DataSidePanel :title="t('common.theBooks')" data-books>
    <p v-if="!map" class="text-sm text-error">{{ t('ledgerPanel.thisSourceDoesNotSay') }}</p>
    <template v-else>
      <dl class="space-y-1.5 text-sm">
        <div v-for="[label, value] in facts" :key="label" class="flex gap-3">
          <dt class="w-36 shrink-0 text-muted">{{ label }}</dt>
          <dd>{{ value }}</dd>
        </div>
      </dl>
      <p class="text-sm text-muted">{{ t('ledgerPanel.oneRowForEachAccount') }}</p>
      <h3 class="pt-2 text-sm font-semibold">{{ t('common.onlyWhere') }}</h3>
      <DataFilterLine
        v-if="own?.kind === 'ledger'"
        :level="level"
        :filters="own.filters"
        bare
        @change="filters => report.edit(t('ledgerPanel.filterOfTheBooks'), now => putTable(now, { kind: 'ledger', name, filters }, name))"
      />
    </template>
    <template #footer>
      <UButton
        size="sm"
        variant="ghost"
        color="error"
        icon="i-lucide-trash-2"
        :disabled="used"
        :title="used ? t('common.aLevelReadsItLet') : ''"
        @click="
          () => {
            report.edit(t('common.remove', { name }), now => removeTable(now, name))
            data.panel = undefined
          }
        "
        >{{ t('common.takeOut') }}</UButton
      >
    </template>
  </DataSidePanel>
</template>
