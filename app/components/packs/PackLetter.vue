<script setup lang="ts">
import type { PackFile, Recipient } from '../../../core/pack/recipients'

/** Letters to people, teams and addresses, each with files of the pack. */
const { teams, people, files } = defineProps<{
  teams: readonly { id: string; name: string }[]
  people: readonly { id: string; name: string }[]
  files: { value: PackFile; label: string }[]
}>()
const letter = defineModel<Extract<Recipient, { is: 'mail' }>>({ required: true })
const written = ref<string[]>([])
const who = computed(() => [
  ...teams.map(each => ({ value: `team ${each.id}`, label: t('packRecipients.allOf', { name: each.name }) })),
  ...people.map(each => ({ value: `person ${each.id}`, label: each.name })),
  ...[...new Set([...written.value, ...letter.value.to])]
    .filter(each => !/^(team|person) /.test(each))
    .map(each => ({ value: each, label: each })),
])
function write(address: string): void {
  written.value.push(address)
  letter.value.to.push(address)
}
</script>

<template>
  <div class="grow space-y-2">
    <USelectMenu
      v-model="letter.to"
      :items="who"
      value-key="value"
      multiple
      create-item
      size="sm"
      class="w-full"
      :placeholder="t('packRecipients.peopleTeamsAddresses')"
      :aria-label="t('packRecipients.lettersTo')"
      @create="write"
    />
    <PacksPackTexts v-model:subject="letter.subject" v-model:body="letter.body" hint="" />
    <div class="flex items-center gap-6">
      <UCheckboxGroup v-model="letter.files" :items="files" value-key="value" orientation="horizontal" size="sm" />
      <UCheckbox
        :model-value="letter.pages ?? false"
        size="sm"
        :label="t('packRecipients.pagesInLetter')"
        @update:model-value="value => (value === true ? (letter.pages = true) : delete letter.pages)"
      />
      <label class="ml-auto flex items-center gap-2 text-xs"
        ><span class="text-muted">{{ t('packRecipients.answersTo') }}</span
        ><UInput
          :model-value="letter.replyTo ?? ''"
          size="sm"
          class="w-56"
          :aria-label="t('packRecipients.answersTo')"
          @update:model-value="value => (value ? (letter.replyTo = String(value)) : delete letter.replyTo)"
      /></label>
    </div>
  </div>
</template>
