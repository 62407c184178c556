<script setup lang="ts">
import type { TriedCopy } from '../../../core/api/intake'

/** What was found in a database that is to be copied, and which of its tables are wanted. */
const { found } = defineProps<{ found: TriedCopy }>()
const tables = defineModel<string[]>('tables', { required: true })
/** columns that grow with each change, by their tables */
const grows = defineModel<Record<string, string>>('grows', { required: true })

function grow(table: string, column: string): void {
  const { [table]: _, ...others } = grows.value
  grows.value = column ? { ...others, [table]: column } : others
}

function want(table: string, wanted: boolean): void {
  tables.value = wanted ? [...tables.value, table] : tables.value.filter(each => each !== table)
}
const rows = computed(() => found.tables.filter(each => tables.value.includes(each.name)).reduce((sum, each) => sum + each.rows, 0))
</script>

<template>
  <div class="min-w-80 max-w-2xl grow space-y-4" data-tried role="status">
    <div>
      <h2 class="font-display text-lg font-semibold">{{ t('copyTables.reached') }}</h2>
      <p class="text-sm">{{ t('copyTables.versionAllTablesAreCopied', { version: found.version }) }}</p>
      <p v-for="note in found.notes" :key="note" class="mt-1 text-sm text-apricot-700 dark:text-apricot-300">{{ note }}</p>
    </div>
    <fieldset>
      <legend class="mb-1 text-sm font-semibold">
        {{ t('copyTables.tablesThatAreCopied') }} <span class="font-normal text-muted">· {{ rowWords(rows) }}</span>
      </legend>
      <p v-if="found.tables.some(each => each.growing.length)" class="mb-1 text-sm text-muted">
        {{ t('copyTables.aRefreshCopiesATable') }}
      </p>
      <div v-for="table in found.tables" :key="table.name" class="flex flex-wrap items-center gap-x-3 py-0.5">
        <UCheckbox
          class="grow"
          size="sm"
          :model-value="tables.includes(table.name)"
          @update:model-value="want(table.name, $event === true)"
        >
          <template #label
            ><span
              >{{ table.name }}
              <span class="font-normal text-muted"
                >· {{ table.columns }} {{ t('common.columnColumns', table.columns) }}, {{ rowWords(table.rows)
                }}{{ table.comment ? ` · ${table.comment}` : '' }}</span
              ></span
            ></template
          >
        </UCheckbox>
        <PickField
          v-if="table.growing.length && tables.includes(table.name)"
          class="w-56"
          size="xs"
          :aria-label="t('copyTables.howIsRefreshed', { name: table.name })"
          :value="grows[table.name] ?? ''"
          @pick="grow(table.name, $event)"
        >
          <option value="">{{ t('copyTables.refreshedWhole') }}</option>
          <option v-for="column in table.growing" :key="column" :value="column">{{ t('copyTables.whatChangedBy', { column }) }}</option>
        </PickField>
        <p v-for="note in table.notes" :key="note" class="ml-6 w-full text-sm text-apricot-700 dark:text-apricot-300">{{ note }}</p>
      </div>
    </fieldset>
  </div>
</template>
