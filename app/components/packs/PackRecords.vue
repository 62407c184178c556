<script setup lang="ts">
import type { ReportDefinition } from '../../../core/definition/report'
import type { PackReport } from '../../../core/pack/definition'
import type { Recipient } from '../../../core/pack/recipients'

/** Each document of a report to the address in its record, in its language, with a file name of its own. */
const { reports, definitions } = defineProps<{ reports: readonly PackReport[]; definitions: ReadonlyMap<string, ReportDefinition> }>()
const letter = defineModel<Extract<Recipient, { is: 'records' }>>({ required: true })
const items = computed(() => reports.map(each => ({ value: each.id, label: each.name })))
const definition = computed(() => definitions.get(reports.find(each => each.id === letter.value.report)?.report ?? ''))
/** Languages that the report has translations for. */
const spoken = computed(() => Object.keys(definition.value?.translations ?? {}))
const tab = ref('')
const texts = computed(() => letter.value.inLanguages.find(each => each.language === tab.value) ?? letter.value)
const names = new Intl.DisplayNames([locale()], { type: 'language' })
function nameOf(tag: string): string {
  try {
    return names.of(tag) ?? tag
  } catch {
    return tag
  }
}
const own = computed(() => definition.value?.language.split('-')[0] ?? 'en')
const tabs = computed(() => [
  { value: '', label: t('packRecipients.otherLanguages', { language: nameOf(own.value) }) },
  ...letter.value.inLanguages.map(each => ({ value: each.language, label: nameOf(each.language) })),
])
const more = computed(() =>
  [...new Set([...spoken.value, 'pt', 'es', 'fr', 'de', 'nb', 'nl', 'it'])]
    .filter(tag => tag !== own.value && !letter.value.inLanguages.some(each => each.language === tag))
    .map(tag => ({
      label: nameOf(tag),
      onSelect: () => {
        const { subject, body, name } = letter.value
        letter.value.inLanguages.push({ language: tag, subject, body, name })
        tab.value = tag
      },
    })),
)
function leave(): void {
  letter.value.inLanguages = letter.value.inLanguages.filter(each => each.language !== tab.value)
  tab.value = ''
}
</script>

<template>
  <div class="min-w-0 grow space-y-2">
    <div class="flex flex-wrap items-center gap-2">
      <span class="text-muted">{{ t('packRecipients.eachDocumentOf') }}</span>
      <USelect v-model="letter.report" :items="items" size="sm" class="w-56" :aria-label="t('packRecipients.report')" />
      <span class="text-muted">{{ t('packRecipients.toTheAddress') }}</span>
      <UInput v-model="letter.address" size="sm" class="w-48 font-mono" :aria-label="t('packRecipients.address')" />
    </div>
    <div class="flex items-center gap-1">
      <UButton
        v-for="each in tabs"
        :key="each.value"
        size="xs"
        :variant="tab === each.value ? 'soft' : 'ghost'"
        color="neutral"
        :aria-pressed="tab === each.value"
        @click="tab = each.value"
        >{{ each.label }}</UButton
      >
      <UDropdownMenu :items="more"
        ><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-plus">{{
          t('packRecipients.addLanguage')
        }}</UButton></UDropdownMenu
      >
      <UButton v-if="tab" size="xs" variant="ghost" color="neutral" class="ml-auto" @click="leave">{{
        t('packRecipients.leaveLanguageOut')
      }}</UButton>
    </div>
    <PacksPackTexts
      v-model:subject="texts.subject"
      v-model:body="texts.body"
      :hint="t('packRecipients.textWithFields', { example: '{{ name }}' })"
    />
    <div class="flex gap-2">
      <UFormField :label="t('packRecipients.fileNameOfIt')" size="xs" class="grow"
        ><UInput
          v-model="texts.name"
          size="sm"
          class="w-full font-mono"
          :placeholder="t('packRecipients.fileName', { example: '{{ code }}' })"
          :aria-label="t('packRecipients.fileNameOfIt')"
      /></UFormField>
      <UFormField :label="t('packRecipients.answersTo')" size="xs" class="w-64"
        ><UInput
          :model-value="letter.replyTo ?? ''"
          size="sm"
          class="w-full"
          :aria-label="t('packRecipients.answersTo')"
          @update:model-value="value => (value ? (letter.replyTo = String(value)) : delete letter.replyTo)"
      /></UFormField>
    </div>
    <UCheckbox
      :model-value="letter.pages ?? false"
      size="sm"
      :label="t('packRecipients.documentInLetter')"
      @update:model-value="value => (value === true ? (letter.pages = true) : delete letter.pages)"
    />
    <p class="text-xs text-muted">{{ t('packRecipients.recordsHelp') }}</p>
  </div>
</template>
