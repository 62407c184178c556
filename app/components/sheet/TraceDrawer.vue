<script setup lang="ts">
/** The records behind the selected figure of the sheet. */
const report = useReport()
const sheet = useSheet()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <FigureTrace :lists="sheet.traced" :words="t('traceDrawer.ofThePinnedRows')" @close="emit('close')">
    <UButton size="xs" variant="outline" color="neutral" :to="`/reports/${report.id}/data`">{{ t('traceDrawer.openInData') }}</UButton>
  </FigureTrace>
</template>
