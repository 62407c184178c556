<script setup lang="ts">
import type { TotalledAs } from '../../core/formula/ratio'

/** How a quotient is totalled: it can be worked out again from totals, or added up record by record. */
const total = defineModel<TotalledAs>({ required: true })
const items: { value: TotalledAs; label: string; description: string }[] = [
  { value: 'ratio', label: t('totalledChoice.aRatio'), description: t('totalledChoice.totalOfWhatIsDivided') },
  { value: 'records', label: t('totalledChoice.aSum'), description: t('totalledChoice.workedOutForEachRecord') },
]
</script>

<template>
  <URadioGroup v-model="total" :items="items" :legend="t('totalledChoice.itsTotals')" size="xs" data-totalled />
</template>
