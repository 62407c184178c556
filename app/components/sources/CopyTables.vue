<script setup lang="ts">
import type { TriedCopy } from '../../../core/api/intake'

/** What was found in a database that is to be copied, and which of its tables are wanted. */
const { found } = defineProps<{ found: TriedCopy }>()
const tables = defineModel<string[]>('tables', { required: true })

function want(table: string, wanted: boolean): void {
  tables.value = wanted ? [...tables.value, table] : tables.value.filter(each => each !== table)
}
const rows = computed(() => found.tables.filter(each => tables.value.includes(each.name)).reduce((sum, each) => sum + each.rows, 0))
</script>

<template>
  <div class="min-w-80 max-w-2xl grow space-y-4" data-tried role="status">
    <div>
      <h2 class="font-display text-lg font-semibold">Reached</h2>
      <p class="text-sm">Version {{ found.version }}. All tables are copied as they are at one moment.</p>
      <p v-for="note in found.notes" :key="note" class="mt-1 text-sm text-apricot-700 dark:text-apricot-300">{{ note }}</p>
    </div>
    <fieldset>
      <legend class="mb-1 text-sm font-semibold">
        Tables that are copied <span class="font-normal text-muted">· {{ rowWords(rows) }}</span>
      </legend>
      <div v-for="table in found.tables" :key="table.name" class="py-0.5">
        <UCheckbox size="sm" :model-value="tables.includes(table.name)" @update:model-value="want(table.name, $event === true)">
          <template #label
            ><span
              >{{ table.name }}
              <span class="font-normal text-muted"
                >· {{ table.columns }} {{ table.columns === 1 ? 'column' : 'columns' }}, {{ rowWords(table.rows)
                }}{{ table.comment ? ` · ${table.comment}` : '' }}</span
              ></span
            ></template
          >
        </UCheckbox>
        <p v-for="note in table.notes" :key="note" class="ml-6 text-sm text-apricot-700 dark:text-apricot-300">{{ note }}</p>
      </div>
    </fieldset>
  </div>
</template>
