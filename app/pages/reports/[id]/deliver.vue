<script setup lang="ts">
import type { PackInfo } from '../../../../core/api/packs'
import { runFormats } from '../../../../core/api/outputs'
import { setFileName, setFormats } from '../../../../core/definition/edits/deliver'
import { setDefaultLayout, setLayout } from '../../../../core/definition/edits/layout'
import { layoutNamed } from '../../../../core/definition/walk'
import { newPack } from '../../../../core/pack/definition'

/** How a report goes out: its layouts and files, who may run it, and the packs that it is in. */
const report = useReport()
const me = useMe()
const definition = computed(() => report.definition!)
const usual = computed(() => layoutNamed(definition.value).name)
const words: Record<string, string> = {
  pdf: t('runDownload.pdf'),
  zip: t('runDownload.onePdfEach'),
  xlsx: t('runDownload.spreadsheet'),
  csv: t('common.csv'),
  json: t('runDownload.json'),
  xml: t('runDownload.xml'),
  html: t('runDownload.html'),
  hybrid: t('runDownload.hybrid'),
  cii: t('runDownload.cii'),
  ubl: t('runDownload.ubl'),
  pain: t('runDownload.pain'),
  parquet: t('runDownload.parquet'),
  csvw: t('runDownload.csvw'),
}
const formats = runFormats.filter(each => words[each])
const formatItems = formats.map(value => ({ value: value as string, label: words[value]! }))
const offered = computed({
  get: () => definition.value.formats ?? [...formats],
  set: (list: string[]) => report.edit(t('deliverPage.filesOffered'), each => setFormats(each, list, formats)),
})
const audience = ref(false)
const packs = shallowRef<PackInfo[]>()
const problem = ref('')
onMounted(async () => {
  try {
    packs.value = (await api<PackInfo[]>('/api/packs')).filter(each => each.definition.reports.some(part => part.report === report.id))
  } catch (error) {
    problem.value = (error as Error).message
  }
})
/** A pack with this report, to be sent by itself. */
async function packIt(): Promise<void> {
  try {
    const { name, id } = report
    const body = {
      name: `${name} ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`,
      definition: { ...newPack(), reports: [{ id: 'report', report: id, name, answers: {} }] },
    }
    const made = await api<{ id: string }>('/api/packs', { method: 'POST', body })
    await navigateTo(`/packs/${made.id}`)
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const example = '{{ code }}'
const fileExample = computed(() => {
  const [first] = definition.value.parameters.filter(each => !each.hidden)
  return first ? `${report.name} {{ param.${first.name} }}` : report.name
})
</script>

<template>
  <main class="desk grid grow grid-cols-[minmax(0,3fr)_minmax(0,2fr)] items-start gap-10 overflow-y-auto px-10 py-6 text-sm">
    <div class="space-y-7">
      <section :aria-label="t('deliverPage.layouts')">
        <h2 class="mb-2 font-semibold">{{ t('deliverPage.layouts') }}</h2>
        <ul class="divide-y divide-default rounded-md border border-default bg-default" data-layouts>
          <li v-for="each in definition.layouts" :key="each.name" class="flex items-center gap-4 px-3 py-2">
            <URadioGroup
              :model-value="usual"
              :items="[{ value: each.name, label: each.name }]"
              size="sm"
              class="w-56 shrink-0"
              :aria-label="t('deliverPage.usedWhereNoneIsAsked')"
              @update:model-value="report.edit(t('deliverPage.usualLayout'), own => setDefaultLayout(own, each.name))"
            />
            <span class="shrink-0 text-muted">{{ t('deliverPage.fileOfEachDocument') }}</span>
            <UInput
              :model-value="each.documentName ?? ''"
              size="sm"
              class="grow font-mono"
              :placeholder="example"
              :aria-label="t('deliverPage.fileOfEachDocumentOf', { layout: each.name })"
              @update:model-value="
                value =>
                  report.edit(
                    t('deliverPage.fileOfEachDocument'),
                    own => setLayout(own, each.name, { documentName: String(value) || (undefined as never) }),
                    `documents ${each.name}`,
                  )
              "
            />
          </li>
        </ul>
        <p class="mt-1 text-xs text-muted">{{ t('deliverPage.theTickedOneIsUsed') }}</p>
      </section>
      <section :aria-label="t('deliverPage.files')">
        <h2 class="mb-2 font-semibold">{{ t('deliverPage.files') }}</h2>
        <div class="space-y-3 rounded-md border border-default bg-default px-3 py-3">
          <label class="flex items-center gap-4"
            ><span class="w-40 shrink-0 text-muted">{{ t('deliverPage.areCalled') }}</span
            ><UInput
              :model-value="definition.fileName ?? ''"
              size="sm"
              class="grow font-mono"
              :placeholder="fileExample"
              :aria-label="t('deliverPage.nameOfTheFiles')"
              @update:model-value="
                value => report.edit(t('deliverPage.nameOfTheFiles'), own => setFileName(own, String(value)), 'file name')
              "
          /></label>
          <div class="flex items-start gap-4">
            <span class="w-40 shrink-0 text-muted">{{ t('deliverPage.readersAreOffered') }}</span><UCheckboxGroup
              v-model="offered"
              :items="formatItems"
              value-key="value"
              orientation="horizontal"
              size="sm"
              :aria-label="t('deliverPage.readersAreOffered')"
            />
          </div>
        </div>
      </section>
    </div>
    <div class="space-y-7">
      <section v-if="me.people" :aria-label="t('deliverPage.whoMayRunIt')">
        <h2 class="mb-2 font-semibold">{{ t('deliverPage.whoMayRunIt') }}</h2>
        <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-users-round" @click="audience = true">{{
          t('deliverPage.lookAtTheAudience')
        }}</UButton>
      </section>
      <section :aria-label="t('common.packs')" data-in-packs>
        <h2 class="mb-2 font-semibold">{{ t('deliverPage.packsItIsIn') }}</h2>
        <p v-if="problem" class="mb-2 text-error" role="alert">{{ tell(problem) }}</p>
        <ul v-if="packs?.length" class="mb-2 divide-y divide-default rounded-md border border-default bg-default">
          <li v-for="each in packs" :key="each.id" class="px-3 py-2">
            <NuxtLink :to="`/packs/${each.id}`" class="font-medium hover:underline">{{ each.name }}</NuxtLink>
            <p class="text-xs text-muted">
              {{ [dueWords(each), ...each.definition.to.map(recipientWords)].join(' · ') }}
            </p>
          </li>
        </ul>
        <p v-else-if="packs" class="mb-2 text-muted">{{ t('deliverPage.inNoPackYet') }}</p>
        <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-package-plus" :disabled="!report.published" @click="packIt">{{
          t('deliverPage.newPackWithIt')
        }}</UButton>
        <p v-if="!report.published" class="mt-1 text-xs text-muted">{{ t('deliverPage.publishItFirst') }}</p>
      </section>
    </div>
    <ReportAudience
      v-if="audience"
      :id="report.id"
      :name="report.name"
      @close="audience = false"
      @published="version => (report.published = version)"
    />
  </main>
</template>
