<script setup lang="ts">
/** Takes a report's definition in from a file, and opens it. */
const { shelf = undefined } = defineProps<{ shelf?: string | undefined }>()
const chooser = useTemplateRef('chooser')
const toast = useToast()
async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    const { id } = await api<{ id: string }>('/api/reports/import', {
      method: 'POST',
      body: { name: file.name.replace(/\.json$/i, ''), shelf: shelf ?? t('importDefinition.imported'), text: await file.text() },
    })
    await navigateTo(`/reports/${id}/page`)
  } catch (error) {
    toast.add({ title: tell((error as Error).message), color: 'error', duration: 10000 })
  }
}
</script>

<template>
  <input
    ref="chooser"
    type="file"
    accept=".json,application/json"
    class="hidden"
    :aria-label="t('importDefinition.definitionFile')"
    @change="take"
  />
  <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-upload" @click="chooser?.click()">{{
    t('importDefinition.importDefinition')
  }}</UButton>
</template>
