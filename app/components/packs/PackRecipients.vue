<script setup lang="ts">
import type { PackDefinition, PackFile } from '../../../core/pack/definition'

/** Whom a pack goes to: letters to people, teams and addresses, and folders on the server. */
const { teams, people } = defineProps<{ teams: readonly { id: string; name: string }[]; people: readonly { id: string; name: string }[] }>()
const pack = defineModel<PackDefinition>({ required: true })
const written = ref<string[]>([])
const whoItems = computed(() => [
  ...teams.map(each => ({ value: `team ${each.id}`, label: t('packRecipients.allOf', { name: each.name }) })),
  ...people.map(each => ({ value: `person ${each.id}`, label: each.name })),
  ...[...new Set([...written.value, ...pack.value.to.flatMap(each => (each.is === 'mail' ? each.to : []))])]
    .filter(each => !/^(team|person) /.test(each))
    .map(each => ({ value: each, label: each })),
])
const fileItems = computed(() => [
  ...(pack.value.out.pdf ? [{ value: 'pdf' as PackFile, label: t('packRecipients.pdf') }] : []),
  ...(pack.value.out.zip ? [{ value: 'zip' as PackFile, label: t('packRecipients.zip') }] : []),
])
const id = () => `to${Date.now().toString(36)}`
const files = (): PackFile[] => fileItems.value.slice(0, 1).map(each => each.value)
const addMail = () => pack.value.to.push({ is: 'mail', id: id(), to: [], subject: '', body: '', files: files() })
const addFolder = () => pack.value.to.push({ is: 'folder', id: id(), folder: '', files: files(), replace: false })
function write(to: string[], address: string): void {
  written.value.push(address)
  to.push(address)
}
</script>

<template>
  <section :aria-label="t('packRecipients.goesTo')">
    <h2 class="mb-2 font-semibold">{{ t('packRecipients.goesTo') }}</h2>
    <ul v-if="pack.to.length" class="mb-2 divide-y divide-default rounded-md border border-default bg-default">
      <li v-for="(each, at) in pack.to" :key="each.id" class="flex gap-3 px-3 py-2.5">
        <UIcon :name="each.is === 'mail' ? 'i-lucide-mail' : 'i-lucide-folder'" class="mt-1.5 size-4 shrink-0 text-muted" />
        <div v-if="each.is === 'mail'" class="grow space-y-2">
          <USelectMenu
            v-model="each.to"
            :items="whoItems"
            value-key="value"
            multiple
            create-item
            size="sm"
            class="w-full"
            :placeholder="t('packRecipients.peopleTeamsAddresses')"
            :aria-label="t('packRecipients.lettersTo')"
            @create="(address: string) => write(each.to, address)"
          />
          <UInput
            v-model="each.subject"
            size="sm"
            class="w-full"
            :placeholder="t('packRecipients.subject')"
            :aria-label="t('packRecipients.subject')"
          />
          <UTextarea
            v-model="each.body"
            size="sm"
            :rows="3"
            class="w-full"
            :placeholder="t('packRecipients.text')"
            :aria-label="t('packRecipients.text')"
          />
          <UCheckboxGroup v-model="each.files" :items="fileItems" value-key="value" orientation="horizontal" size="sm" />
        </div>
        <div v-else class="grow space-y-2">
          <UInput
            v-model="each.folder"
            size="sm"
            class="w-full font-mono"
            :placeholder="t('packRecipients.folderOnTheServer')"
            :aria-label="t('packRecipients.folderOnTheServer')"
          />
          <div class="flex items-center gap-6">
            <UCheckboxGroup v-model="each.files" :items="fileItems" value-key="value" orientation="horizontal" size="sm" />
            <UCheckbox v-model="each.replace" :label="t('packRecipients.replaceWhatIsThere')" size="sm" />
          </div>
        </div>
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          class="self-start"
          :aria-label="t('packRecipients.takeAway')"
          @click="pack.to.splice(at, 1)"
        />
      </li>
    </ul>
    <div class="flex gap-2">
      <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-mail" @click="addMail">{{
        t('packRecipients.addLetters')
      }}</UButton>
      <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-folder" @click="addFolder">{{
        t('packRecipients.addFolder')
      }}</UButton>
    </div>
  </section>
</template>
