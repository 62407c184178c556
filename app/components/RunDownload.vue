<script setup lang="ts">
import { extensionOf, type Output, wholeLayout } from '../../core/api/outputs'
import { isRepeat } from '../../core/definition/blocks/block'
import { isTable } from '../../core/definition/blocks/table'
import { type PainVersion, painVersions } from '../../core/payment/pain'
import { blocksOf, layoutNamed } from '../../core/definition/walk'
import type { ReportDefinition } from '../../core/definition/report'

/** What a finished run can be taken away as, each with the choices that it has. */
const { run, name, definition, layout, ready } = defineProps<{
  run: string
  name: string
  definition: ReportDefinition
  layout?: string
  ready: boolean
}>()
const emit = defineEmits<{ problem: [text: string] }>()
const levels = computed(() => levelItems(definition))
const crosstabs = computed(() => crosstabItems(definition, layout || undefined))
/** what CSV can hold: rows of a level, cells of a crosstab, the pages' rows as they are printed */
const csvItems = computed(() => [
  ...levels.value.map(({ value, label }) => ({ value: `level ${value}`, label: t('runDownload.rows', { label }) })),
  ...crosstabs.value.map(({ value, label }) => ({ value: `crosstab ${value}`, label: t('runDownload.cells', { label }) })),
  { value: `printed ${wholeLayout}`, label: t('runDownload.allAsItIsPrinted') },
])
const kinds = computed(() =>
  [
    { format: 'pdf', label: t('runDownload.pdf'), icon: 'i-lucide-file-text', hint: t('runDownload.thePagesAsTheyAre') },
    ...(layoutNamed(definition, layout || undefined).documentName
      ? [
          {
            format: 'zip',
            label: t('runDownload.onePdfEach'),
            icon: 'i-lucide-folder-archive',
            hint: t('runDownload.aFileForEachDocument'),
          },
        ]
      : []),
    { format: 'xlsx', label: t('runDownload.spreadsheet'), icon: 'i-lucide-sheet', hint: t('runDownload.figuresAndLiveTotals') },
    { format: 'csv', label: t('common.csv'), icon: 'i-lucide-table', hint: t('runDownload.rowsOfALevelCells') },
    { format: 'json', label: t('runDownload.json'), icon: 'i-lucide-braces', hint: t('runDownload.recordsWithWhatIsUnder') },
    { format: 'xml', label: t('runDownload.xml'), icon: 'i-lucide-code-xml', hint: t('runDownload.recordsWithTheirStructure') },
    { format: 'parquet', label: t('runDownload.parquet'), icon: 'i-lucide-database', hint: t('runDownload.rowsWithExactNumbers') },
    { format: 'csvw', label: t('runDownload.csvw'), icon: 'i-lucide-file-json', hint: t('runDownload.csvOfAllLevels') },
    { format: 'html', label: t('runDownload.html'), icon: 'i-lucide-mail', hint: t('runDownload.forTheBodyOfA') },
    ...(blocksOf(layoutNamed(definition, layout || undefined)).some(each => isRepeat(each) && each.einvoice)
      ? [
          { format: 'hybrid', label: t('runDownload.hybrid'), icon: 'i-lucide-file-check-2', hint: t('runDownload.pdfWithXmlWithin') },
          { format: 'cii', label: t('runDownload.cii'), icon: 'i-lucide-receipt-text', hint: t('runDownload.xmlOfEachDocument') },
          { format: 'ubl', label: t('runDownload.ubl'), icon: 'i-lucide-receipt-text', hint: t('runDownload.xmlOfEachDocument') },
        ]
      : []),
    ...(blocksOf(layoutNamed(definition, layout || undefined)).some(each => isTable(each) && each.payments)
      ? [{ format: 'pain', label: t('runDownload.pain'), icon: 'i-lucide-landmark', hint: t('runDownload.ordersForTheBank') }]
      : []),
  ].filter(each => !definition.formats || definition.formats.includes(each.format)),
)
const open = ref(false)
const chosen = ref('xlsx')
const choices = reactive({
  version: '09' as PainVersion,
  level: '',
  sheets: 'one',
  rows: '',
  csv: '',
  separator: 'comma',
  decimal: 'point',
  guard: true,
  mark: true,
})
watch(
  levels,
  list => {
    choices.level = list.at(-1)?.value ?? ''
    choices.csv = `level ${choices.level}`
  },
  { immediate: true },
)
const making = ref('')
const sheets = [
  { value: 'one', label: t('runDownload.allOnOneSheet') },
  { value: 'documents', label: t('runDownload.aSheetForEachDocument') },
  { value: 'groups', label: t('runDownload.aSheetForEachGroup') },
]
const separators = [
  { value: 'comma', label: t('runDownload.comma') },
  { value: 'semicolon', label: t('runDownload.semicolon') },
  { value: 'tab', label: t('runDownload.tab') },
]
const rowItems = computed(() => [{ value: 'none', label: t('common.none') }, ...levels.value])
const jsonItems = computed(() => [
  { value: 'all', label: t('runDownload.allOneInsideTheOther') },
  ...csvItems.value.filter(each => !each.value.startsWith('printed ')),
])
const jsonOf = ref('all')

function asked(format: string): Record<string, string> {
  switch (format) {
    case 'xlsx':
      return { format, sheets: choices.sheets, ...(choices.rows && choices.rows !== 'none' ? { rows: choices.rows } : {}) }
    case 'csv': {
      const at = choices.csv.indexOf(' ')
      return {
        format,
        [choices.csv.slice(0, at)]: choices.csv.slice(at + 1),
        separator: choices.separator,
        decimal: choices.decimal,
        ...(choices.guard ? { guard: 'yes' } : {}),
        ...(choices.mark ? { mark: 'yes' } : {}),
      }
    }
    case 'json': {
      const at = jsonOf.value.indexOf(' ')
      return { format, ...(at < 0 ? {} : { [jsonOf.value.slice(0, at)]: jsonOf.value.slice(at + 1) }) }
    }
    case 'parquet':
      return { format, level: choices.level }
    case 'pain':
      return { format, version: choices.version }
    default:
      return { format }
  }
}
async function download(format: string): Promise<void> {
  making.value = format
  try {
    const response = await fetch(`/api/runs/${run}/file?${new URLSearchParams(asked(format))}`)
    if (!response.ok) throw new Error(((await response.json()) as { message: string }).message)
    const link = document.createElement('a')
    link.href = URL.createObjectURL(await response.blob())
    const called = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get('content-disposition') ?? '')?.[1]
    link.download = called ? decodeURIComponent(called) : `${name}.${extensionOf(format as Output['format'])}`
    link.click()
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
    open.value = false
  } catch (error) {
    emit('problem', (error as Error).message)
  } finally {
    making.value = ''
  }
}
</script>

<template>
  <UButtonGroup>
    <UButton size="sm" icon="i-lucide-download" :loading="making === 'pdf'" :disabled="!ready" @click="download('pdf')">{{
      t('runDownload.pdf')
    }}</UButton>
    <UPopover v-model:open="open" :content="{ align: 'end' }">
      <UButton size="sm" icon="i-lucide-chevron-down" :aria-label="t('runDownload.downloadAs')" :disabled="!ready" />
      <template #content>
        <div class="flex w-[480px] text-sm" data-download>
          <div class="w-44 shrink-0 border-r border-default p-2" role="tablist" :aria-label="t('runDownload.formats')">
            <button
              v-for="kind in kinds"
              :key="kind.format"
              role="tab"
              class="flex w-full items-center gap-2 rounded-md px-2 py-1.5 text-left hover:bg-elevated"
              :class="chosen === kind.format ? 'bg-petrol-100 font-semibold dark:bg-petrol-900' : ''"
              :aria-selected="chosen === kind.format"
              :data-format="kind.format"
              @click="chosen = kind.format"
            >
              <UIcon :name="kind.icon" class="size-4 text-muted" />{{ kind.label }}
            </button>
          </div>
          <div class="flex grow flex-col gap-3 p-4">
            <p class="text-muted">{{ kinds.find(kind => kind.format === chosen)?.hint }}</p>
            <template v-if="chosen === 'xlsx'">
              <UFormField :label="t('runDownload.sheets')" size="sm"
                ><USelect v-model="choices.sheets" :items="sheets" size="sm" class="w-full" :aria-label="t('runDownload.sheets')"
              /></UFormField>
              <UFormField :label="t('runDownload.plainRowsOnASheet')" size="sm"
                ><USelect
                  v-model="choices.rows"
                  :items="rowItems"
                  :placeholder="t('common.none')"
                  size="sm"
                  class="w-full"
                  :aria-label="t('runDownload.plainRowsOf')"
              /></UFormField>
              <p class="text-xs text-muted">
                {{ t('runDownload.totalsAreFormulasWhereverThe') }}
              </p>
            </template>
            <template v-else-if="chosen === 'csv'">
              <UFormField :label="t('runDownload.whatItHolds')" size="sm"
                ><USelect v-model="choices.csv" :items="csvItems" size="sm" class="w-full" :aria-label="t('runDownload.whatItHolds')"
              /></UFormField>
              <div class="flex gap-2">
                <UFormField :label="t('runDownload.betweenFields')" size="sm" class="grow"
                  ><USelect
                    v-model="choices.separator"
                    :items="separators"
                    size="sm"
                    class="w-full"
                    :aria-label="t('runDownload.betweenFields')"
                /></UFormField>
                <UFormField :label="t('common.decimals')" size="sm" class="grow"
                  ><USelect
                    v-model="choices.decimal"
                    :items="[
                      { value: 'point', label: '1.50' },
                      { value: 'comma', label: '1,50' },
                    ]"
                    size="sm"
                    class="w-full"
                    :aria-label="t('common.decimals')"
                /></UFormField>
              </div>
              <label class="flex items-center gap-2"
                ><input v-model="choices.guard" type="checkbox" class="accent-petrol-700" />
                {{ t('runDownload.textsThatBeginWithCannot') }}</label
              >
              <label class="flex items-center gap-2"
                ><input v-model="choices.mark" type="checkbox" class="accent-petrol-700" /> {{ t('runDownload.markTheFileAsUtf') }}</label
              >
            </template>
            <UFormField v-else-if="chosen === 'json'" :label="t('common.records')" size="sm"
              ><USelect v-model="jsonOf" :items="jsonItems" size="sm" class="w-full" :aria-label="t('common.records')"
            /></UFormField>
            <UFormField v-else-if="chosen === 'parquet'" :label="t('runDownload.rowsOf')" size="sm"
              ><USelect v-model="choices.level" :items="levels" size="sm" class="w-full" :aria-label="t('runDownload.rowsOf')"
            /></UFormField>
            <UFormField v-else-if="chosen === 'pain'" :label="t('runDownload.version')" size="sm"
              ><USelect
                v-model="choices.version"
                :items="painVersions.map(value => ({ value, label: `pain.001.001.${value}` }))"
                size="sm"
                class="w-full"
                :aria-label="t('runDownload.version')"
            /></UFormField>
            <UButton class="mt-auto self-end" size="sm" icon="i-lucide-download" :loading="making === chosen" @click="download(chosen)">{{
              t('runDownload.download')
            }}</UButton>
          </div>
        </div>
      </template>
    </UPopover>
  </UButtonGroup>
</template>
