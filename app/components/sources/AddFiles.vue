<script setup lang="ts">
import type { AddedSource, BroughtFile, SaidFile, UnderstoodTable } from '../../../core/api/intake'
import type { CatalogTable } from '../../../core/catalog/types'
import { changesOf } from '../../../core/intake/again'
import { chosenEndings, endingWords } from '../../../core/intake/endings'
import type { ColumnForm } from '../../../core/intake/cells'
import type { ProposedColumn } from '../../../core/intake/understand'

/**
 * Files that become a source, or are taken into one that is there: what was understood of each, and what is said against it, before they
 * are taken in.
 */
const { into = undefined } = defineProps<{
  into?:
    | {
        id: string
        name: string
        /** its tables as they are, and which file each was of */
        tables: CatalogTable[]
        origins: Record<string, { file: string; sheet?: string; said?: SaidFile }>
      }
    | undefined
}>()
const emit = defineEmits<{ close: []; added: [source: { id: string }] }>()

/** A table of a file, as it was understood and as somebody says it is. */
interface Given {
  key: number
  name: string
  size: number
  /** the file in the hands of the server */
  id?: string
  understood?: UnderstoodTable
  problem?: string
  reading: boolean
  /** lines that are left out */
  without: number[]
  /** the table that it becomes, where that is said by what it was before */
  table?: string
}
const files = ref<Given[]>([])
const chosen = ref(-1)
const name = ref(into?.name ?? '')
const problem = ref('')
const taking = ref(false)
const over = ref(false)
const chooser = useTemplateRef('chooser')
const folderChooser = useTemplateRef('folderChooser')
/** forms that somebody has said, by table and column */
const said = ref<Record<number, Record<string, ColumnForm>>>({})
const current = computed(() => files.value.find(each => each.key === chosen.value))
const ready = computed(
  () => name.value.trim() && files.value.length > 0 && files.value.every(each => each.understood && !each.reading) && !taking.value,
)
const able = computed(() => files.value.filter(each => each.understood).length)
/** Files that keep the others from being taken in. */
const faulty = computed(() => files.value.filter(each => each.problem).map(each => `“${each.name}”`))
const them = computed(() => (faulty.value.length === 1 ? t('addFiles.it') : t('addFiles.them')))
let lastKey = 0

async function bring(list: Iterable<File>): Promise<void> {
  for (const file of list) {
    const given: Given = reactive({ key: ++lastKey, name: file.name, size: file.size, reading: true, without: [] })
    files.value.push(given)
    if (chosen.value < 0) chosen.value = given.key
    if (!name.value) name.value = file.name.replace(/\.[^.]*$/, '').replace(/[_-]+/g, ' ')
    try {
      const brought = await api<BroughtFile[]>(`/api/intake?${new URLSearchParams({ name: file.name })}`, { method: 'POST', body: file })
      // left out while it was on its way
      const wanted = files.value.includes(given)
      const tables = brought.flatMap(({ id, name: own, size, understood }) =>
        // a hidden sheet is not taken in unless it is all there is
        understood
          .filter((each, _, all) => !each.hidden || all.every(other => other.hidden))
          .map((table): Given => ({ key: ++lastKey, name: own, size, id, understood: table, reading: false, without: [] })),
      )
      if (!wanted) return tables.forEach(letGo)
      const place = files.value.indexOf(given)
      files.value = files.value.toSpliced(place, 1, ...tables)
      if (chosen.value === given.key) chosen.value = tables[0]!.key
      for (const table of files.value.filter(each => tables.some(other => other.key === each.key))) await asBefore(table)
    } catch (error) {
      given.problem = (error as Error).message
      given.reading = false
    }
  }
}
/** A file that was taken in before is understood as it was said to be then. */
async function asBefore(file: Given): Promise<void> {
  const [table, origin] =
    Object.entries(into?.origins ?? {}).find(([, each]) => each.file === file.name && each.sheet === file.understood?.sheet) ?? []
  if (!table || !origin) return
  file.table = table
  const { titles, titleLine, forms: before } = origin.said ?? {}
  if (titleLine !== undefined && titleLine !== file.understood!.titleLine) await sayAgain(file, { titleLine })
  else if (titles !== undefined && titles !== file.understood!.titles) await sayAgain(file, { titles })
  const there = new Set(file.understood!.columns.map(column => column.name))
  const known = Object.fromEntries(Object.entries(before ?? {}).filter(([column]) => there.has(column)))
  if (Object.keys(known).length) said.value = { ...said.value, [file.key]: known }
}
const tableOf = (file: Given) => file.table ?? file.understood!.table
/** What a file does to the tables that are there. */
function effectOf(file: Given): string {
  const before = into?.tables.find(each => each.name === tableOf(file))
  if (!before) return t('addFiles.thisTableIsAddedAll')
  const after = file.understood!.columns.map(column => ({ name: column.name, type: formOf(file, column).type }))
  const changes = changesOf(before, after)
  const how = changes.length ? t('addFiles.withOtherColumns', { changes: changes.join('; ') }) : t('addFiles.whoseColumnsStayTheSame')
  return t('addFiles.takesThePlaceOf', { name: before.name, how })
}

async function drop(event: DragEvent): Promise<void> {
  over.value = false
  if (!event.dataTransfer) return
  const list = await droppedFiles(event.dataTransfer.items)
  if (!list.length) problem.value = t('addFiles.thereAreNoFilesThat', { endings: endingWords })
  await bring(list)
}
function choose(event: Event): void {
  const input = event.target as HTMLInputElement
  const list = [...(input.files ?? [])]
  void bring(input.webkitdirectory ? tableFiles(list) : list)
  input.value = ''
}
function letGo(file: Given): void {
  // a file goes with the last of its tables
  if (file.id && !files.value.some(each => each.id === file.id && each.key !== file.key))
    void api(`/api/intake/${file.id}`, { method: 'DELETE' }).catch(() => {})
}
function leave(file: Given): void {
  files.value = files.value.filter(each => each.key !== file.key)
  if (chosen.value === file.key) chosen.value = files.value[0]?.key ?? -1
  letGo(file)
}
function close(): void {
  for (const file of [...files.value]) leave(file)
  emit('close')
}

/** Forms as their words in the list. */
const forms: Record<string, { label: string; form: ColumnForm }> = {
  text: { label: t('common.text2'), form: { type: 'text' } },
  'number .': { label: t('addFiles.number123450'), form: { type: 'number', decimal: '.' } },
  'number ,': { label: t('addFiles.number1234502'), form: { type: 'number', decimal: ',' } },
  'date ymd': { label: t('addFiles.date20260331'), form: { type: 'date', order: 'ymd' } },
  'date dmy': { label: t('addFiles.date31032026'), form: { type: 'date', order: 'dmy' } },
  'date mdy': { label: t('addFiles.date03312026'), form: { type: 'date', order: 'mdy' } },
  'moment ymd': { label: t('addFiles.dateTime20260331'), form: { type: 'moment', order: 'ymd' } },
  'moment dmy': { label: t('addFiles.dateTime31032026'), form: { type: 'moment', order: 'dmy' } },
  'moment mdy': { label: t('addFiles.dateTime03312026'), form: { type: 'moment', order: 'mdy' } },
  boolean: { label: t('addFiles.yesOrNo'), form: { type: 'boolean' } },
}
const wordOf = (form: ColumnForm) =>
  'order' in form ? `${form.type} ${form.order}` : 'decimal' in form ? `number ${form.decimal}` : form.type
const formOf = (file: Given, column: ProposedColumn) => said.value[file.key]?.[column.name] ?? column.form
function say(file: Given, column: ProposedColumn, word: string): void {
  said.value = { ...said.value, [file.key]: { ...said.value[file.key], [column.name]: forms[word]!.form } }
}
/** What is said of a table beside the forms of its columns. */
const saidOf = ({ understood, without }: Given) => ({
  ...(understood!.sheet === undefined ? {} : { sheet: understood!.sheet }),
  ...(understood!.titleLine === undefined ? { titles: understood!.titles } : { titleLine: understood!.titleLine }),
  ...(without.length ? { without } : {}),
})
/** A table is read again where its titles or its rows are said otherwise. */
async function sayAgain(file: Given, change: { titles?: boolean; titleLine?: number; without?: number[] }): Promise<void> {
  file.reading = true
  const told = {
    ...saidOf({ ...file, without: change.without ?? file.without }),
    ...('titles' in change ? { titles: change.titles, titleLine: undefined } : {}),
    ...(change.titleLine === undefined ? {} : { titleLine: change.titleLine, titles: undefined }),
  }
  try {
    const [table] = await api<UnderstoodTable[]>(`/api/intake/${file.id}`, { method: 'POST', body: told })
    // columns that are still called the same keep what was said of them
    const names = new Set(table!.columns.map(column => column.name))
    said.value = {
      ...said.value,
      [file.key]: Object.fromEntries(Object.entries(said.value[file.key] ?? {}).filter(([column]) => names.has(column))),
    }
    Object.assign(file, { understood: table, without: change.without ?? file.without })
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    file.reading = false
  }
}
/** Rows that looked like totals stay in the list once they are left out. */
const totals = new Map<string, string>()
const totalsOf = (file: Given) => {
  for (const { line, words } of file.understood!.totals) totals.set(`${file.key} ${line}`, words)
  const left = file.without.map(line => ({ line, words: totals.get(`${file.key} ${line}`) ?? '' }))
  return [...file.understood!.totals, ...left].sort((a, b) => a.line - b.line)
}

const progress = shallowRef<{ done: number; of: number; file: string }>()
const stop = shallowRef<AbortController>()
onBeforeUnmount(() => stop.value?.abort())
/** reports would break: they are taken in only if somebody wants it all the same */
const lacking = ref(false)
async function takeIn(evenSo = false): Promise<void> {
  taking.value = true
  problem.value = ''
  lacking.value = false
  const leaving = (stop.value = new AbortController())
  const asking = useIntervalFn(async () => {
    const asked = `/api/intake?${new URLSearchParams({ name: name.value })}`
    progress.value = (await api<{ progress?: { done: number; of: number; file: string } }>(asked).catch(() => undefined))?.progress
  }, 500)
  const given = files.value.map(file => ({
    id: file.id,
    ...saidOf(file),
    ...(file.table ? { table: file.table } : {}),
    forms: said.value[file.key] ?? {},
  }))
  try {
    const path = into ? `/api/sources/${encodeURIComponent(into.id)}/files` : '/api/sources'
    const body = into ? { files: given, ...(evenSo ? { evenSo } : {}) } : { name: name.value, files: given }
    const added = await api<Partial<AddedSource>>(path, { method: 'POST', body, signal: leaving.signal })
    emit('added', { id: into?.id ?? added.id! })
  } catch (error) {
    problem.value = leaving.signal.aborted ? t('addFiles.nothingWasTakenIn') : (error as Error).message
    lacking.value = problem.value.includes('take them in all the same')
  } finally {
    asking.pause()
    progress.value = undefined
    taking.value = false
  }
}
const progressWords = computed(
  () =>
    progress.value &&
    t('addFiles.isReadAtHandIs', { min: Math.min(99, Math.floor((100 * progress.value.done) / Math.max(1, progress.value.of))) }) +
      t('addFiles.theRestOfTheProgram', { file: progress.value.file }),
)
const isNumber = (file: Given, at: number) => formOf(file, file.understood!.columns[at]!).type === 'number'
</script>

<template>
  <section
    class="flex min-h-0 grow flex-col border-b border-default"
    :aria-label="into ? t('addFiles.filesFor', { name: into.name }) : t('addFiles.newSourceFromFiles')"
    data-add-files
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="drop"
  >
    <header class="flex items-end gap-3 border-b border-default px-11 py-3">
      <h1 v-if="into" class="font-display text-lg font-semibold">{{ t('addFiles.filesFor', { name: into.name }) }}</h1>
      <UFormField v-else :label="t('common.nameOfTheSource')" size="sm" class="w-72"
        ><UInput v-model="name" size="sm" class="w-full"
      /></UFormField>
      <input
        ref="chooser"
        type="file"
        multiple
        :accept="chosenEndings"
        class="hidden"
        :aria-label="t('addFiles.filesOfANewSource')"
        @change="choose"
      />
      <input
        ref="folderChooser"
        type="file"
        webkitdirectory
        class="hidden"
        :aria-label="t('addFiles.folderOfANewSource')"
        @change="choose"
      />
      <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-file-plus" @click="chooser?.click()">{{
        t('addFiles.chooseFiles')
      }}</UButton>
      <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-folder-plus" @click="folderChooser?.click()">{{
        t('addFiles.chooseAFolder')
      }}</UButton>
      <span class="grow" />
      <UButton size="sm" variant="ghost" color="neutral" @click="close">{{
        files.length ? t('addFiles.leaveThem') : t('common.close')
      }}</UButton>
      <UButton v-if="taking" size="sm" variant="outline" color="neutral" @click="stop?.abort()">{{ t('common.stop') }}</UButton>
      <UButton v-if="lacking" size="sm" color="error" variant="outline" :disabled="!ready" @click="takeIn(true)">{{
        t('addFiles.takeThemInAllThe')
      }}</UButton>
      <UButton size="sm" icon="i-lucide-check" :disabled="!ready" :loading="taking" @click="takeIn()">
        {{ taking ? t('addFiles.takingIn') : able > 1 ? t('addFiles.takeInTables', { able }) : t('addFiles.takeIn') }}
      </UButton>
    </header>
    <Notice v-if="problem" :text="problem" kind="error" />
    <Notice v-else-if="progressWords" :text="progressWords" />
    <Notice v-else-if="faulty.length" :text="t('addFiles.cannotBeTakenInCorrect', { faulty: faulty.join(', '), them })" />
    <div
      v-if="!files.length"
      class="m-11 grid grow place-items-center rounded-lg border-2 border-dashed"
      :class="over ? 'border-petrol-600 bg-petrol-50 dark:bg-petrol-950' : 'border-accented'"
    >
      <div class="text-center">
        <p class="font-display text-lg">{{ t('addFiles.dropFilesOrAFolder') }}</p>
        <p class="mt-1 text-sm text-muted">
          {{ t('addFiles.separatedValuesCsvTsvWorkbooks') }}
        </p>
      </div>
    </div>
    <div v-else class="flex min-h-0 grow">
      <nav class="w-64 shrink-0 overflow-auto border-r border-default py-3 pl-11 pr-3" :aria-label="t('addFiles.files')">
        <div v-for="file in files" :key="file.key" class="group flex items-start gap-1">
          <button
            class="min-w-0 grow rounded-md px-2 py-1.5 text-left text-sm"
            :class="file.key === chosen ? 'bg-elevated font-semibold' : 'hover:bg-elevated/60'"
            :aria-current="file.key === chosen"
            @click="chosen = file.key"
          >
            <span class="block truncate">{{ file.understood?.sheet ?? file.name }}</span>
            <span v-if="file.understood?.sheet" class="block truncate text-xs font-normal text-muted">{{ file.name }}</span>
            <span v-if="file.problem" class="block text-xs font-normal text-error">{{ t('addFiles.cannotBeTakenIn') }}</span>
            <span v-else-if="file.reading" class="block text-xs font-normal text-muted">{{ t('addFiles.beingRead') }}</span>
            <span v-else-if="file.understood" class="block text-xs font-normal text-muted"
              >{{ grouped(file.understood.rows) }} {{ t('common.rowRows', file.understood.rows) }} · {{ file.understood.columns.length }}
              {{ t('common.columnColumns', file.understood.columns.length) }}</span
            >
          </button>
          <UButton
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            class="mt-1"
            :aria-label="t('addFiles.leaveOut', { what: file.understood?.sheet ?? file.name })"
            @click="leave(file)"
          />
        </div>
      </nav>
      <div v-if="current" class="min-w-0 grow overflow-auto px-6 py-3">
        <p v-if="current.problem" class="text-error" role="alert">{{ tell(current.problem) }}</p>
        <p v-else-if="current.reading" class="text-muted">{{ t('addFiles.theFileIsBeingRead') }}</p>
        <template v-else-if="current.understood">
          <div class="flex flex-wrap items-center gap-x-5 gap-y-1 text-sm">
            <h2 class="font-display text-lg font-semibold">{{ tableOf(current) }}</h2>
            <span class="text-muted">{{ current.understood.written }}</span>
            <template v-if="!current.understood.typed">
              <UCheckbox
                size="sm"
                :label="t('addFiles.thereAreTitles')"
                :model-value="current.understood.titles"
                @update:model-value="sayAgain(current, { titles: $event === true })"
              />
              <label v-if="current.understood.titles" class="flex items-center gap-2"
                >{{ t('addFiles.inLine') }}
                <NumberField
                  class="w-20"
                  size="xs"
                  whole
                  :aria-label="t('addFiles.lineOfTheTitles')"
                  :least="1"
                  :value="current.understood.titleLine"
                  @write="sayAgain(current, { titleLine: $event })"
              /></label>
            </template>
          </div>
          <p v-if="into" class="mt-1 text-sm" role="status" data-effect>{{ effectOf(current) }}</p>
          <div v-if="totalsOf(current).length" class="mt-1 flex flex-wrap items-center gap-x-5 gap-y-1 text-sm">
            <span class="text-muted">{{ t('addFiles.looksLikeATotalOf') }}</span>
            <UCheckbox
              v-for="total in totalsOf(current)"
              :key="total.line"
              size="sm"
              :label="t('addFiles.leaveOutLine', { line: grouped(total.line), what: total.words ? ` (“${total.words}”)` : '' })"
              :model-value="current.without.includes(total.line)"
              @update:model-value="
                sayAgain(current, {
                  without: $event === true ? [...current.without, total.line] : current.without.filter(line => line !== total.line),
                })
              "
            />
          </div>
          <p v-for="note in current.understood.notes" :key="note" class="mt-1 text-sm text-apricot-700 dark:text-apricot-300" role="status">
            {{ note }}
          </p>
          <div v-if="current.understood.columns.some(each => each.notes.length)" role="status">
            <ul class="mt-1 space-y-0.5 text-sm text-apricot-700 dark:text-apricot-300">
              <template v-for="column in current.understood.columns" :key="column.name">
                <li v-for="note in column.notes" :key="note">
                  <b>{{ column.title }}</b>: {{ note }}
                </li>
              </template>
            </ul>
          </div>
          <table class="mt-3 border-separate border-spacing-0 text-sm" data-understood>
            <thead class="sticky top-0 bg-default">
              <tr>
                <th
                  v-for="column in current.understood.columns"
                  :key="column.name"
                  class="border-b border-default px-2 py-1.5 text-left align-top"
                >
                  <span class="block max-w-52 truncate" :title="column.title">{{ column.title }}</span>
                  <PickField
                    class="mt-1 w-40 font-normal"
                    size="xs"
                    :aria-label="t('addFiles.typeOf', { title: column.title })"
                    :value="wordOf(formOf(current, column))"
                    @pick="say(current, column, $event)"
                  >
                    <option v-for="(each, word) in forms" :key="word" :value="word">{{ each.label }}</option>
                  </PickField>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(row, at) in current.understood.first" :key="at">
                <td
                  v-for="(column, index) in current.understood.columns"
                  :key="column.name"
                  class="max-w-72 truncate border-b border-default/60 px-2 py-0.5"
                  :class="isNumber(current, index) ? 'text-right tabular-nums' : ''"
                >
                  {{ row[index] }}
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="current.understood.rows > current.understood.first.length" class="mt-2 text-sm text-muted">
            {{ t('addFiles.andMore', { what: grouped(current.understood.rows - current.understood.first.length) }) }}
          </p>
        </template>
      </div>
    </div>
  </section>
</template>
