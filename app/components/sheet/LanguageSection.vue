<script setup lang="ts">
import { kindOf } from '../../../core/compose/blocks/registry'
import { blocksOf, setTranslation } from '../../../core/definition/edits/edits'
import { textParts } from '../../../core/value/textParts'

/** How the texts of a layout read in other languages; a repeat says which language each document speaks. */
const report = useReport()
const known = [
  { tag: 'pt', name: 'Portuguese' },
  { tag: 'nb', name: 'Norwegian' },
  { tag: 'en', name: 'English' },
]
const language = ref('pt')
const texts = computed(() => {
  const found = blocksOf(report.layout!).flatMap(block => kindOf(block).wordings(block).texts)
  // a value alone needs no translation; its marks and month names follow the language by themselves
  return [...new Set(found)].filter(
    text => textParts(text).some(part => 'literal' in part && /\p{L}/u.test(part.literal)) || (text.includes('|') && text.includes('MMM')),
  )
})
</script>

<template>
  <SheetSection :title="t('languageSection.languages')" :note="report.definition!.language" :open="false">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('languageSection.textsIn') }}</span
      ><PickField v-model="language" class="w-36" :aria-label="t('languageSection.languageOfTheTranslations')">
        <option v-for="each in known" :key="each.tag" :value="each.tag">{{ each.name }}</option>
      </PickField></label
    >
    <p class="text-xs text-muted">{{ t('languageSection.aRepeatSSettingsSay') }}</p>
    <label v-for="text in texts" :key="text" class="block"
      ><span class="block truncate text-xs text-muted" :title="text">{{ text }}</span
      ><TextField
        grows
        rows="1"
        class="w-full"
        :value="report.definition!.translations?.[language]?.[text] ?? ''"
        :aria-label="t('languageSection.translated', { text })"
        @write="report.edit(t('languageSection.translation'), now => setTranslation(now, language, text, $event))"
      />
    </label>
    <p v-if="!texts.length" class="text-muted">{{ t('languageSection.noTextOfThisLayout') }}</p>
  </SheetSection>
</template>
