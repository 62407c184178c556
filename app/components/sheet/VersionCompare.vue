<script setup lang="ts">
import type { Page } from '../../../core/compose/page'
import { layoutNamed } from '../../../core/definition/walk'
import { withLetterhead } from '../../../core/definition/edits/layout'
import type { ReportDefinition } from '../../../core/definition/report'
import { pageSize } from '../../../core/compose/paperSize'
import type { ComposeReply, ComposeRequest } from '../../workers/compose.worker'

/** Earlier versions of the report, and their pages beside those of now. */
interface Version {
  number: number
  name: string | null
  state: string
  savedAt: string
}
const emit = defineEmits<{ close: [] }>()
const report = useReport()
const sheet = useSheet()
const versions = ref<Version[]>([])
const chosen = ref<number>()
const before = shallowRef<ReportDefinition>()
const pages = shallowRef<ReadonlyMap<number, Page>>(new Map())
const sentence = ref('')
const page = ref(0)
const list = `/api/reports/${report.id}/versions`
onMounted(async () => {
  await report.save()
  versions.value = await api<Version[]>(list).catch((error: Error) => ((sentence.value = error.message), []))
})
const now = computed(() => report.layout!)
const size = computed(() => pageSize(now.value.page))
const zoom = 0.62

let worker: Worker | undefined
onBeforeUnmount(() => worker?.terminate())
async function choose(number: number): Promise<void> {
  chosen.value = number
  sentence.value = ''
  pages.value = new Map()
  worker?.terminate()
  try {
    before.value = await api<ReportDefinition>(`${list}/${number}`)
  } catch (error) {
    sentence.value = (error as Error).message
    return
  }
  worker = new Worker(new URL('../../workers/compose.worker.ts', import.meta.url), { type: 'module' })
  worker.onmessage = ({ data }: MessageEvent<ComposeReply>) => {
    if (data.kind === 'missing') sentence.value = t('versionCompare.thatVersionReadsFieldsThat')
    else if (data.kind === 'failed') sentence.value = data.sentence
    else if (data.kind === 'pages')
      pages.value = new Map([...pages.value, ...data.pages.map((each, index): [number, Page] => [data.from + index, each])])
  }
  const post = (request: ComposeRequest) => worker!.postMessage(request)
  post({
    kind: 'rows',
    rows: toRaw(report.rows!.bytes),
    catalog: toRaw(report.catalog!),
    today: report.today,
    ...(report.rows!.labels ? { labels: toRaw(report.rows!.labels) } : {}),
  })
  const definition = withLetterhead(before.value, toRaw(report.letterhead))
  post({
    kind: 'compose',
    turn: 1,
    definition,
    layout: layoutNamed(definition, now.value.name).name,
    printed: printedNow(definition.language),
    answers: { ...report.answers },
    from: 0,
    to: 40,
  })
}
async function name(version: Version, text: string): Promise<void> {
  versions.value = await api<Version[]>(`${list}/${version.number}`, { method: 'PUT', body: { name: text } })
}
function takeBack(): void {
  report.edit(t('versionCompare.version2', { value: chosen.value }), () => before.value!)
  report.layoutName = undefined
  emit('close')
}
watch(page, value => sheet.want(value, value + 1), { immediate: true })
</script>

<template>
  <USlideover
    :open="true"
    side="bottom"
    :title="t('versionCompare.versions')"
    :description="t('versionCompare.pagesAsTheyWereAnd')"
    :ui="{ content: 'h-[82dvh]' }"
    @update:open="emit('close')"
  >
    <template #content>
      <div class="flex min-h-0 grow" data-versions>
        <aside class="w-72 shrink-0 overflow-auto border-r border-default p-3 text-sm">
          <h2 class="pb-2 text-base font-semibold">{{ t('versionCompare.versions') }}</h2>
          <ul>
            <li
              v-for="version in versions"
              :key="version.number"
              class="rounded-md px-2 py-1"
              :class="version.number === chosen ? 'bg-petrol-100 dark:bg-petrol-900' : ''"
            >
              <button class="flex w-full items-baseline gap-2 text-left" @click="choose(version.number)">
                <span class="font-semibold">{{ version.number }}</span><span class="text-muted">{{ minuteWords(version.savedAt) }}</span
                ><span v-if="version.number === report.published" class="ml-auto text-xs text-success">{{
                  t('versionCompare.published')
                }}</span
                ><span v-else-if="version.state === 'conflict'" class="ml-auto text-xs text-error">{{
                  t('versionCompare.keptBeside')
                }}</span>
              </button>
              <TextField
                class="w-full"
                :placeholder="t('versionCompare.giveItAName')"
                :aria-label="t('versionCompare.nameOfVersion', { number: version.number })"
                :value="version.name ?? ''"
                @write="name(version, $event)"
              />
            </li>
          </ul>
        </aside>
        <div class="desk min-w-0 grow overflow-auto p-4">
          <p v-if="sentence" class="text-error" role="alert">{{ tell(sentence) }}</p>
          <p v-else-if="!chosen" class="font-display text-lg">{{ t('versionCompare.chooseAVersionAtThe') }}</p>
          <div v-if="chosen" class="mb-2 flex items-center gap-2 text-sm">
            <UButton
              size="xs"
              variant="outline"
              color="neutral"
              icon="i-lucide-chevron-left"
              :aria-label="t('versionCompare.pageBefore')"
              :disabled="page === 0"
              @click="page--"
            />{{ t('versionCompare.page', { what: page + 1 })
            }}<UButton
              size="xs"
              variant="outline"
              color="neutral"
              icon="i-lucide-chevron-right"
              :aria-label="t('versionCompare.nextPage')"
              @click="page++"
            /><UButton class="ml-4" size="xs" @click="takeBack">{{ t('versionCompare.takeVersionBack', { chosen }) }}</UButton
            ><span class="text-muted">{{ t('versionCompare.itBecomesTheDraftUndo') }}</span>
          </div>
          <div v-if="chosen" class="flex gap-6">
            <figure>
              <figcaption class="pb-1 text-sm font-semibold">{{ t('versionCompare.version', { chosen }) }}</figcaption>
              <PageCanvas :page="pages.get(page)" :width="size.width" :height="size.height" :zoom="zoom" />
            </figure>
            <figure>
              <figcaption class="pb-1 text-sm font-semibold">{{ t('versionCompare.now') }}</figcaption>
              <PageCanvas :page="sheet.pages.get(page)" :width="size.width" :height="size.height" :zoom="zoom" />
            </figure>
          </div>
        </div>
      </div>
    </template>
  </USlideover>
</template>
