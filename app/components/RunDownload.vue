<script setup lang="ts">
import { wholeLayout } from '../../core/api/outputs'
import { fileName } from '../../core/parameter/fileName'
import { layoutNamed } from '../../core/definition/walk'
import type { ReportDefinition } from '../../core/definition/report'

/** What a finished run can be taken away as, each with the choices that it has. */
const { run, name, definition, layout, answers, ready } = defineProps<{
  run: string
  name: string
  definition: ReportDefinition
  layout?: string
  answers: Record<string, string>
  ready: boolean
}>()
const emit = defineEmits<{ problem: [text: string] }>()
const levels = computed(() => levelItems(definition))
const crosstabs = computed(() => crosstabItems(definition, layout || undefined))
/** what CSV can hold: rows of a level, cells of a crosstab, the pages' rows as they are printed */
const csvItems = computed(() => [
  ...levels.value.map(({ value, label }) => ({ value: `level ${value}`, label: `rows: ${label}` })),
  ...crosstabs.value.map(({ value, label }) => ({ value: `crosstab ${value}`, label: `cells: ${label}` })),
  { value: `printed ${wholeLayout}`, label: 'all as it is printed' },
])
const kinds = computed(() => [
  { format: 'pdf', label: 'PDF', icon: 'i-lucide-file-text', hint: 'the pages as they are' },
  ...(layoutNamed(definition, layout || undefined).documentName
    ? [{ format: 'zip', label: 'One PDF each', icon: 'i-lucide-folder-archive', hint: 'a file for each document' }]
    : []),
  { format: 'xlsx', label: 'Spreadsheet', icon: 'i-lucide-sheet', hint: 'figures and live totals' },
  { format: 'csv', label: 'CSV', icon: 'i-lucide-table', hint: 'rows of a level, cells of a crosstab, or all as printed' },
  { format: 'json', label: 'JSON', icon: 'i-lucide-braces', hint: 'records with what is under them' },
  { format: 'xml', label: 'XML', icon: 'i-lucide-code-xml', hint: 'records with their structure' },
  { format: 'html', label: 'HTML', icon: 'i-lucide-mail', hint: 'for the body of a mail' },
])
const open = ref(false)
const chosen = ref('xlsx')
const choices = reactive({ sheets: 'one', rows: '', csv: '', separator: 'comma', decimal: 'point', guard: true, mark: true })
watch(levels, list => (choices.csv = `level ${list.at(-1)?.value ?? ''}`), { immediate: true })
const making = ref('')
const sheets = [
  { value: 'one', label: 'all on one sheet' },
  { value: 'documents', label: 'a sheet for each document' },
  { value: 'groups', label: 'a sheet for each group' },
]
const separators = [
  { value: 'comma', label: 'comma' },
  { value: 'semicolon', label: 'semicolon' },
  { value: 'tab', label: 'tab' },
]
const rowItems = computed(() => [{ value: 'none', label: 'none' }, ...levels.value])
const jsonItems = computed(() => [
  { value: 'all', label: 'all, one inside the other' },
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
    link.download = `${fileName(name, definition.parameters, answers)}.${format}`
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
    <UButton size="sm" icon="i-lucide-download" :loading="making === 'pdf'" :disabled="!ready" @click="download('pdf')">PDF</UButton>
    <UPopover v-model:open="open" :content="{ align: 'end' }">
      <UButton size="sm" icon="i-lucide-chevron-down" aria-label="Download as …" :disabled="!ready" />
      <template #content>
        <div class="flex w-[480px] text-sm" data-download>
          <div class="w-44 shrink-0 border-r border-default p-2" role="tablist" aria-label="Formats">
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
              <UFormField label="Sheets" size="sm"
                ><USelect v-model="choices.sheets" :items="sheets" size="sm" class="w-full" aria-label="Sheets"
              /></UFormField>
              <UFormField label="Plain rows on a sheet beside it" size="sm"
                ><USelect v-model="choices.rows" :items="rowItems" placeholder="none" size="sm" class="w-full" aria-label="Plain rows of"
              /></UFormField>
              <p class="text-xs text-muted">
                Totals are formulas wherever the cells above them give the same figure. Rows are read again with these answers.
              </p>
            </template>
            <template v-else-if="chosen === 'csv'">
              <UFormField label="What it holds" size="sm"
                ><USelect v-model="choices.csv" :items="csvItems" size="sm" class="w-full" aria-label="What it holds"
              /></UFormField>
              <div class="flex gap-2">
                <UFormField label="Between fields" size="sm" class="grow"
                  ><USelect v-model="choices.separator" :items="separators" size="sm" class="w-full" aria-label="Between fields"
                /></UFormField>
                <UFormField label="Decimals" size="sm" class="grow"
                  ><USelect
                    v-model="choices.decimal"
                    :items="[
                      { value: 'point', label: '1.50' },
                      { value: 'comma', label: '1,50' },
                    ]"
                    size="sm"
                    class="w-full"
                    aria-label="Decimals"
                /></UFormField>
              </div>
              <label class="flex items-center gap-2"
                ><input v-model="choices.guard" type="checkbox" class="accent-petrol-700" /> Texts that begin with = + - @ cannot run in a
                spreadsheet</label
              >
              <label class="flex items-center gap-2"
                ><input v-model="choices.mark" type="checkbox" class="accent-petrol-700" /> Mark the file as UTF-8</label
              >
            </template>
            <UFormField v-else-if="chosen === 'json'" label="Records" size="sm"
              ><USelect v-model="jsonOf" :items="jsonItems" size="sm" class="w-full" aria-label="Records"
            /></UFormField>
            <UButton class="mt-auto self-end" size="sm" icon="i-lucide-download" :loading="making === chosen" @click="download(chosen)"
              >Download</UButton
            >
          </div>
        </div>
      </template>
    </UPopover>
  </UButtonGroup>
</template>
