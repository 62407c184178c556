<script setup lang="ts">
import type { TotalledAs } from '../../core/formula/ratio'

/** How a quotient is totalled: it can be worked out again from totals, or added up record by record. */
const total = defineModel<TotalledAs>({ required: true })
const items: { value: TotalledAs; label: string; description: string }[] = [
  { value: 'ratio', label: 'A ratio', description: 'Total of what is divided ÷ total of what it is divided by' },
  { value: 'records', label: 'A sum', description: 'Worked out for each record, then added up' },
]
</script>

<template>
  <URadioGroup v-model="total" :items="items" legend="Its totals" size="xs" data-totalled />
</template>
