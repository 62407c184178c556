<script setup lang="ts">
/** The records behind the selected figure of the sheet. */
const report = useReport()
const sheet = useSheet()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <FigureTrace :lists="sheet.traced" words="of the pinned rows" @close="emit('close')">
    <UButton size="xs" variant="outline" color="neutral" :to="`/reports/${report.id}/data`">Open in Data</UButton>
  </FigureTrace>
</template>
