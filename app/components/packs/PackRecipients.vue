<script setup lang="ts">
import type { ReportDefinition } from '../../../core/definition/report'
import type { PackDefinition } from '../../../core/pack/definition'
import type { PackFile, Recipient } from '../../../core/pack/recipients'

/** Whom a pack goes to: letters to people, teams and addresses, each document to the address in its record, folders, printers. */
const { teams, people, definitions } = defineProps<{
  teams: readonly { id: string; name: string }[]
  people: readonly { id: string; name: string }[]
  definitions: ReadonlyMap<string, ReportDefinition>
}>()
const pack = defineModel<PackDefinition>({ required: true })
const printers = shallowRef<{ id: string; name: string }[]>([])
onMounted(async () => {
  printers.value = (await api<{ printers: typeof printers.value }>('/api/printers').catch(() => ({ printers: [] }))).printers
})
const fileItems = computed(() => [
  ...(pack.value.out.pdf ? [{ value: 'pdf' as PackFile, label: t('packRecipients.pdf') }] : []),
  ...(pack.value.out.xlsx ? [{ value: 'xlsx' as PackFile, label: t('packRecipients.xlsx') }] : []),
  ...(pack.value.out.zip ? [{ value: 'zip' as PackFile, label: t('packRecipients.zip') }] : []),
  ...(pack.value.to.some(each => each.is === 'records') ? [{ value: 'rest' as PackFile, label: t('packRecipients.rest') }] : []),
])
const paperItems = computed(() => fileItems.value.filter(each => each.value === 'pdf' || each.value === 'rest'))
const marks: Record<Recipient['is'], string> = {
  mail: 'i-lucide-mail',
  records: 'i-lucide-mails',
  folder: 'i-lucide-folder',
  print: 'i-lucide-printer',
}
const id = () => `to${Date.now().toString(36)}`
const files = (): PackFile[] => fileItems.value.slice(0, 1).map(each => each.value)
const fresh: Record<Recipient['is'], () => Recipient> = {
  mail: () => ({ is: 'mail', id: id(), to: [], subject: '', body: '', files: files() }),
  records: () => ({
    is: 'records',
    id: id(),
    report: pack.value.reports.find(each => !pack.value.to.some(to => to.is === 'records' && to.report === each.id))?.id ?? '',
    address: 'email',
    name: '',
    subject: '',
    body: '',
    inLanguages: [],
  }),
  folder: () => ({ is: 'folder', id: id(), folder: '', files: files(), replace: false }),
  print: () => ({
    is: 'print',
    id: id(),
    printer: printers.value[0]?.id ?? '',
    files: paperItems.value.slice(0, 1).map(each => each.value),
    copies: 1,
    sides: 'two-sided-long-edge',
  }),
}
const adds = computed(() => [
  { is: 'mail' as const, label: t('packRecipients.addLetters') },
  ...(pack.value.reports.length ? [{ is: 'records' as const, label: t('packRecipients.addRecords') }] : []),
  { is: 'folder' as const, label: t('packRecipients.addFolder') },
  ...(printers.value.length ? [{ is: 'print' as const, label: t('packRecipients.addPrinter') }] : []),
])
</script>

<template>
  <section :aria-label="t('packRecipients.goesTo')">
    <h2 class="mb-2 font-semibold">{{ t('packRecipients.goesTo') }}</h2>
    <ul v-if="pack.to.length" class="mb-2 divide-y divide-default rounded-md border border-default bg-default">
      <li v-for="(each, at) in pack.to" :key="each.id" class="flex gap-3 px-3 py-2.5" :data-recipient="each.is">
        <UIcon :name="marks[each.is]" class="mt-1.5 size-4 shrink-0 text-muted" />
        <PacksPackLetter v-if="each.is === 'mail'" :model-value="each as never" :teams="teams" :people="people" :files="fileItems" />
        <PacksPackRecords
          v-else-if="each.is === 'records'"
          :model-value="each as never"
          :reports="pack.reports"
          :definitions="definitions"
        />
        <div v-else-if="each.is === 'folder'" class="grow space-y-2">
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
        <PacksPackPrinter v-else :model-value="each as never" :printers="printers" :files="paperItems" />
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
      <UButton
        v-for="each in adds"
        :key="each.is"
        size="sm"
        variant="outline"
        color="neutral"
        :icon="marks[each.is]"
        @click="pack.to.push(fresh[each.is]())"
        >{{ each.label }}</UButton
      >
    </div>
  </section>
</template>
