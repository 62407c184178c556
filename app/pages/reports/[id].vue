<script setup lang="ts">
const route = useRoute()
const report = useReport()
const failed = ref('')

async function load(): Promise<void> {
  try {
    failed.value = ''
    await report.load(String(route.params.id))
  } catch (error) {
    failed.value = (error as Error).message
  }
}
watch(() => route.params.id, load, { immediate: true })
useHead({ title: () => t('reportsIdPage.estante', { what: report.name || t('common.report') }) })

const typing = () =>
  /^(INPUT|TEXTAREA|SELECT)$/.test(document.activeElement?.tagName ?? '') ||
  (document.activeElement as HTMLElement | null)?.isContentEditable
useEventListener('keydown', event => {
  if (!(event.ctrlKey || event.metaKey) || typing()) return
  const key = event.key.toLowerCase()
  if (key !== 'z' && key !== 'y') return
  event.preventDefault()
  if (key === 'y' || event.shiftKey) report.redo()
  else report.undo()
})
useEventListener('beforeunload', () => void report.save())
onBeforeRouteLeave(() => report.save())
</script>

<template>
  <div class="flex h-dvh flex-col">
    <ReportBar v-if="report.definition" />
    <TopBar v-else />
    <Notice v-if="failed" :text="failed" kind="error"
      ><UButton size="xs" variant="outline" color="neutral" to="/">{{ t('common.toTheLibrary') }}</UButton></Notice
    >
    <Notice v-if="report.saveProblem" :text="report.saveProblem" kind="error">
      <UButton v-if="report.saving === 'conflict'" size="xs" variant="outline" color="neutral" @click="report.takeCurrent()">{{
        t('reportsIdPage.openTheCurrentVersion')
      }}</UButton>
      <UButton v-else size="xs" variant="outline" color="neutral" @click="report.save()">{{ t('reportsIdPage.saveAgain') }}</UButton>
    </Notice>
    <Notice v-if="report.sourceProblem" :text="t('reportsIdPage.youGoOnWithThe', { sourceProblem: report.sourceProblem })"
      ><UButton size="xs" variant="outline" color="neutral" @click="report.readCatalog(true)">{{
        t('reportsIdPage.tryTheSourceAgain')
      }}</UButton></Notice
    >
    <Notice v-if="report.problem" :text="report.problem" kind="error"
      ><UButton size="xs" variant="outline" color="neutral" @click="report.readRows()">{{ t('reportsIdPage.readAgain') }}</UButton></Notice
    >
    <NuxtPage v-if="report.definition" class="min-h-0 grow" />
    <div v-else-if="!failed" class="desk grow" />
  </div>
</template>
