<script setup lang="ts">
/** Rows that the pages are designed against: how many, for which answers, since when; out to files and in from them. */
const report = useReport()
const chooser = useTemplateRef('chooser')
const problem = ref('')
const level = ref('')
const levels = computed(() => report.tree?.levels ?? [])
const when = computed(() => (report.pinnedAt ? recentWords(report.pinnedAt) : ''))
const given = computed(() =>
  report.definition!.parameters.filter(each => report.answers[each.name]).map(each => `${each.label}: ${report.answers[each.name]}`),
)
const address = (format: 'json' | 'csv', name = '') => `/api/reports/${report.id}/rows?${new URLSearchParams({ format, level: name })}`
async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    problem.value = ''
    const csv = /\.csv$/i.test(file.name)
    await report.importRows(csv ? 'csv' : 'json', await file.text(), csv ? level.value || levels.value[0]!.name : undefined)
  } catch (error) {
    problem.value = (error as Error).message
  }
}
</script>

<template>
  <DataSidePanel :title="t('pinnedPanel.pinnedRows')" data-pinned>
    <p v-if="report.rows" class="text-sm" data-pinned-words>
      {{
        t('pinnedPanel.pinnedThePagesAreDesigned', {
          counted: counted(report.rows.records.levels[0]!.count, levels[0]?.caption ?? ''),
          what: when ? t('pinnedPanel.on', { when }) : '',
          what2: report.rows.fromFile ? t('pinnedPanel.fromAFile') : '',
        })
      }}
    </p>
    <p class="text-sm text-muted">
      {{ given.length ? t('pinnedPanel.for', { given: given.join(', ') }) : t('pinnedPanel.forTheParametersDefaults') }}
    </p>
    <div class="flex items-center gap-2">
      <UInputNumber
        v-model="report.pinned"
        :min="1"
        :max="1000"
        :step="50"
        size="sm"
        class="w-32"
        :aria-label="t('pinnedPanel.howManyOf', { what: levels[0]?.caption ?? '' })"
      />
      <UButton size="sm" icon="i-lucide-refresh-cw" :loading="report.reading" @click="report.readRows()">{{
        t('pinnedPanel.pinAnew')
      }}</UButton>
    </div>
    <p v-if="report.rows?.fromFile" class="text-sm text-muted">{{ t('pinnedPanel.rowsFromAFileStay') }}</p>
    <section class="space-y-1.5">
      <h3 class="text-sm font-semibold">{{ t('pinnedPanel.toAFile') }}</h3>
      <div class="flex flex-wrap gap-1.5">
        <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-download" :to="address('json')" external>{{
          t('pinnedPanel.jsonAllLevels')
        }}</UButton><UButton
          v-for="each in levels"
          :key="each.name"
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-download"
          :to="address('csv', each.name)"
          external
          >{{ t('pinnedPanel.csvOf', { caption: each.caption.toLowerCase() }) }}</UButton
        >
      </div>
    </section>
    <section class="space-y-1.5">
      <h3 class="text-sm font-semibold">{{ t('pinnedPanel.fromAFile2') }}</h3>
      <p class="text-sm text-muted">{{ t('pinnedPanel.jsonBringsAllLevelsCsv') }}</p>
      <div class="flex items-center gap-2">
        <USelect
          v-model="level"
          :items="levels.map(each => ({ label: each.caption, value: each.name }))"
          size="sm"
          class="w-40"
          :placeholder="levels[0]?.caption"
          :aria-label="t('pinnedPanel.levelOfACsvFile')"
        />
        <input ref="chooser" type="file" accept=".json,.csv" class="hidden" :aria-label="t('pinnedPanel.fileOfRows')" @change="take" />
        <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-upload" @click="chooser?.click()">{{
          t('pinnedPanel.chooseAFile')
        }}</UButton>
      </div>
      <p v-if="problem" class="text-sm text-error" role="alert">{{ tell(problem) }}</p>
    </section>
  </DataSidePanel>
</template>
