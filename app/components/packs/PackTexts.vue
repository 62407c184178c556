<script setup lang="ts">
/** What a letter says. */
const subject = defineModel<string>('subject', { required: true })
const body = defineModel<string>('body', { required: true })
defineProps<{ hint: string }>()
</script>

<template>
  <UFormField :label="t('packRecipients.subject')" size="xs"
    ><UInput v-model="subject" size="sm" class="w-full" :aria-label="t('packRecipients.subject')"
  /></UFormField>
  <UFormField :label="t('packRecipients.text')" size="xs"
    ><UTextarea v-model="body" size="sm" :rows="3" autoresize class="w-full" :placeholder="hint" :aria-label="t('packRecipients.text')"
  /></UFormField>
</template>
