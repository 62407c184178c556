<script setup lang="ts">
import { type PackFile, printSides, type Recipient } from '../../../core/pack/recipients'

/** Files of a pack on paper. */
const { printers, files } = defineProps<{
  printers: readonly { id: string; name: string }[]
  files: { value: PackFile; label: string }[]
}>()
const print = defineModel<Extract<Recipient, { is: 'print' }>>({ required: true })
const items = computed(() => printers.map(each => ({ value: each.id, label: each.name })))
const words = {
  'one-sided': t('packRecipients.oneSided'),
  'two-sided-long-edge': t('packRecipients.twoSidedLong'),
  'two-sided-short-edge': t('packRecipients.twoSidedShort'),
}
const sides = printSides.map(value => ({ value, label: words[value] }))
</script>

<template>
  <div class="flex grow flex-wrap items-center gap-x-3 gap-y-2">
    <USelect
      v-model="print.printer"
      :items="items"
      size="sm"
      class="w-56"
      :placeholder="t('packRecipients.choosePrinter')"
      :aria-label="t('packRecipients.printer')"
    />
    <UInputNumber v-model="print.copies" :min="1" :max="99" size="sm" class="w-24" :aria-label="t('packRecipients.copies')" />
    <span class="text-muted">{{ t('packRecipients.copiesWord', print.copies) }}</span>
    <USelect v-model="print.sides" :items="sides" size="sm" class="w-48" :aria-label="t('packRecipients.sides')" />
    <UInput
      :model-value="print.tray ?? ''"
      size="sm"
      class="w-36 font-mono"
      :placeholder="t('packRecipients.tray')"
      :aria-label="t('packRecipients.tray')"
      @update:model-value="value => (value ? (print.tray = String(value)) : delete print.tray)"
    />
    <UCheckboxGroup v-model="print.files" :items="files" value-key="value" orientation="horizontal" size="sm" />
  </div>
</template>
