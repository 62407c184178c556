<script setup lang="ts">
import { max, scaleLinear } from 'd3'
import { clauseType, type ClauseValue, filterText, readFilter } from '../../../core/formula/clauses'
import type { Use } from '../../../core/compose/uses'
import type { FieldProfile } from '../../../core/sql/profile'
import { removeCalculated, setField, setFilters, tickField } from '../../../core/definition/edits/levels'
import { dayText, parseDay } from '../../../core/value/date'
import { parseMoment } from '../../../core/value/moment'
import { defaultPattern } from '../../../core/compose/text'
import { parseDecimal } from '../../../core/value/decimal'

const sources = useSources()

/** What a field really holds; values can be ticked into a filter, and caption and format set for the whole report. */
const { level, path } = defineProps<{ level: string; path: string }>()
const report = useReport()
const data = useData()
const info = computed(() => data.level(level))
const field = computed(() => info.value?.fields.get(path))
const profile = shallowRef<FieldProfile>()
const problem = ref('')
const search = ref('')
const busy = ref(false)
const ticked = ref<string[]>([])
let stop: AbortController | undefined

async function read(): Promise<void> {
  stop?.abort()
  const mine = (stop = new AbortController())
  busy.value = true
  try {
    const found = await data.profile(level, path, search.value, mine.signal)
    if (mine === stop) {
      profile.value = found
      problem.value = ''
    }
  } catch (error) {
    if (!mine.signal.aborted) {
      problem.value = (error as Error).message
      profile.value = undefined
    }
  } finally {
    if (mine === stop) busy.value = false
  }
}
watch(
  () => [level, path],
  () => {
    search.value = ''
    ticked.value = []
    profile.value = undefined
    void read()
  },
  { immediate: true },
)
const soon = useDebounceFn(read, 200)
watch(search, () => void soon())
onBeforeUnmount(() => stop?.abort())

const shown = (text: string | null) => {
  if (text === null || !field.value) return ''
  const value =
    field.value.type === 'number'
      ? (parseDecimal(text) ?? null)
      : field.value.type === 'date'
        ? (parseDay(text) ?? null)
        : field.value.type === 'moment'
          ? (parseMoment(text) ?? null)
          : field.value.type === 'boolean'
            ? text === 'true'
            : text
  return fieldText(field.value, value, report.definition!.language)
}
const share = (part: number) =>
  profile.value?.records ? `${((part / profile.value.records) * 100).toFixed(part && part / profile.value.records < 0.01 ? 1 : 0)} %` : ''
const bars = computed(() => {
  const list = profile.value?.bars ?? []
  if (list.length < 2) return []
  const height = scaleLinear([0, max(list, bar => bar.count) ?? 1], [0, 56])
  const [low, high] = [list[0]!.from, Math.max(...list.map(bar => bar.to))]
  const x = scaleLinear([low, high], [0, 336])
  return list.map(bar => ({
    x: x(bar.from),
    width: Math.max(1, x(bar.to) - x(bar.from) - 1.5),
    height: Math.max(1.5, height(bar.count)),
    title: t('profilePanel.to', { edge: edge(bar.from), edge2: edge(bar.to), whole: grouped(bar.count) }),
  }))
})
const edge = (value: number) =>
  field.value?.type === 'date' || field.value?.type === 'moment'
    ? dayText(Math.floor(value))
    : value.toLocaleString(locale(), { maximumFractionDigits: 2 })
const largest = computed(() => max(profile.value?.top ?? [], each => each.count) ?? 1)

function use(not: boolean): void {
  if (!field.value) return
  const values = ticked.value.map((text): ClauseValue => ({
    is: 'constant',
    type: clauseType(field.value!.type),
    value:
      field.value!.type === 'number'
        ? parseDecimal(text)!
        : clauseType(field.value!.type) === 'date'
          ? parseDay(text.slice(0, 10))!
          : field.value!.type === 'boolean'
            ? text === 'true'
            : text,
  }))
  const test = values.length === 1 ? (not ? 'notEqual' : 'equal') : not ? 'notOneOf' : 'oneOf'
  const before = info.value!.definition.filters
  // a clause on the same values is replaced, not doubled
  const others = before.filter(text => {
    const part = readFilter(text)
    return !(
      part.is === 'clause' &&
      part.field === path &&
      ['equal', 'oneOf', 'notEqual', 'notOneOf'].includes(part.test) &&
      part.values.every(value => value.is === 'constant')
    )
  })
  report.edit(t('profilePanel.filter'), definition =>
    setFilters(definition, level, [...others, filterText({ is: 'clause', field: path, test, values }, {})]),
  )
  ticked.value = []
}

const caption = computed({
  get: () => field.value?.caption ?? '',
  set: value =>
    report.edit(t('profilePanel.caption'), definition => setField(definition, `${level}.${path}`, { caption: value }), 'caption'),
})
const format = computed({
  get: () => field.value?.format ?? '',
  set: value => report.edit(t('common.format'), definition => setField(definition, `${level}.${path}`, { format: value }), 'format'),
})
const calculated = computed(() => info.value?.definition.calculated?.find(each => each.name === path))
const isTotal = computed(() => !!field.value?.total)
const toast = useToast()
/** Keeps caption, format, or the formula itself with the source, for all its reports. */
async function keep(): Promise<void> {
  if (!field.value || !info.value) return
  try {
    const { table } = info.value.definition
    const [own, column] = [calculated.value, field.value.column.name]
    await sources.changeSettings(settings =>
      own
        ? {
            ...settings,
            calculated: [...settings.calculated.filter(each => each.table !== table || each.name !== own.name), { table, ...own }],
          }
        : {
            ...settings,
            columns: {
              ...settings.columns,
              [`${tableOfRecord()}.${column}`]: {
                ...(caption.value ? { caption: caption.value } : {}),
                ...(format.value ? { format: format.value } : {}),
              },
            },
          },
    )
    await report.readCatalog(true)
    if (calculated.value) {
      const { name } = calculated.value
      report.edit(t('profilePanel.share', { name }), definition =>
        tickField(removeCalculated(definition, level, name), level, '', name, true),
      )
    }
    toast.add({ title: t('profilePanel.keptWithTheSourceEvery'), icon: 'i-lucide-check', color: 'success' })
  } catch (error) {
    toast.add({ title: tell((error as Error).message), color: 'error' })
  }
}
const tableOfRecord = () => {
  let list = info.value!.definition.related
  let { table } = info.value!.definition
  for (const name of field.value!.record ? field.value!.record.split('.') : []) {
    const found = list.find(each => each.name === name)!
    table = found.table
    list = found.related
  }
  return table
}
const uses = ref<{ id: string; name: string; uses: Use[] }[]>()
watch(
  () => [level, path],
  () => (uses.value = undefined),
)
async function findUses(): Promise<void> {
  try {
    const column = field.value!.formula ? path : field.value!.column.name
    uses.value = await api(sources.path(`uses?${new URLSearchParams({ table: tableOfRecord(), column })}`))
  } catch (error) {
    toast.add({ title: tell((error as Error).message), color: 'error' })
  }
}
const edit = () => (data.panel = calculated.value ? { kind: 'calculated', level, name: path } : { kind: 'total', level, name: path })
</script>

<template>
  <DataSidePanel v-if="field && info" :title="fieldTitle(field)" :level="info.index" data-profile>
    <p class="-mt-1 text-sm text-muted">
      {{ info.caption }} · <code class="font-mono text-xs">{{ path }}</code> ·
      {{ field.type === 'boolean' ? t('profilePanel.yesNo') : field.type
      }}<template v-if="field.column.comment && !field.formula"> · {{ field.column.comment }}</template>
    </p>
    <div v-if="calculated || isTotal" class="flex items-center gap-2 rounded-md border border-default p-2 text-sm">
      <code v-if="calculated" class="min-w-0 grow truncate font-mono text-xs">{{ calculated.formula }}</code><span
        v-else
        class="grow text-muted"
        >{{ t('profilePanel.aChildTotal') }}</span
      >
      <UButton size="xs" variant="outline" color="neutral" @click="edit">{{ t('common.change') }}</UButton>
    </div>
    <p v-if="problem" class="rounded-md border border-default p-2 text-sm text-muted">{{ tell(problem) }}</p>
    <p v-else-if="!profile" class="text-sm text-muted">{{ t('profilePanel.reading') }}</p>
    <template v-else>
      <dl class="grid grid-cols-[auto_1fr_auto] gap-x-3 gap-y-0.5 text-sm" data-figures>
        <dt class="text-muted">{{ t('common.records') }}</dt>
        <dd class="text-right">{{ grouped(profile.records) }}</dd>
        <dd />
        <dt class="text-muted">{{ t('profilePanel.empty') }}</dt>
        <dd class="text-right">{{ grouped(profile.empty) }}</dd>
        <dd class="text-right text-xs text-dimmed">{{ profile.empty ? share(profile.empty) : '' }}</dd>
        <dt class="text-muted">{{ t('profilePanel.distinct') }}</dt>
        <dd class="text-right">{{ grouped(profile.distinct) }}</dd>
        <dd />
        <template v-if="profile.lowest !== null && field.type !== 'boolean'">
          <dt class="text-muted">{{ t('profilePanel.lowest') }}</dt>
          <dd class="truncate text-right" :title="shown(profile.lowest)">{{ shown(profile.lowest) }}</dd>
          <dd />
          <dt class="text-muted">{{ t('profilePanel.highest') }}</dt>
          <dd class="truncate text-right" :title="shown(profile.highest)">{{ shown(profile.highest) }}</dd>
          <dd />
        </template>
        <template v-if="profile.average !== null"
          ><dt class="text-muted">{{ t('profilePanel.average') }}</dt>
          <dd class="text-right">{{ Number(profile.average).toLocaleString(locale(), { maximumFractionDigits: 2 }) }}</dd>
          <dd
        /></template>
      </dl>
      <svg
        v-if="bars.length"
        viewBox="0 0 340 60"
        class="w-full"
        role="img"
        :aria-label="t('profilePanel.howIsSpread', { caption })"
        data-histogram
      >
        <rect
          v-for="(bar, index) in bars"
          :key="index"
          :x="bar.x + 2"
          :y="58 - bar.height"
          :width="bar.width"
          :height="bar.height"
          fill="var(--level)"
          opacity="0.75"
        >
          <title>{{ bar.title }}</title>
        </rect>
        <line x1="0" x2="340" y1="58.5" y2="58.5" stroke="currentColor" opacity="0.25" />
      </svg>
      <div>
        <div class="flex items-center gap-2">
          <h3 class="text-sm font-semibold">{{ t('profilePanel.mostFrequent') }}</h3>
          <UInput
            v-model="search"
            size="xs"
            :placeholder="t('profilePanel.findAValue')"
            icon="i-lucide-search"
            class="ml-auto w-44"
            :aria-label="t('profilePanel.findAValue')"
            :loading="busy"
          />
        </div>
        <div class="mt-1 max-h-72 overflow-auto rounded-md border border-default bg-default" data-top>
          <label
            v-for="each in profile.top"
            :key="each.value"
            class="flex cursor-pointer items-center gap-2 px-2 py-0.5 text-sm hover:bg-elevated"
          >
            <input v-model="ticked" type="checkbox" :value="each.value" class="accent-petrol-700" />
            <span class="min-w-0 grow truncate" :title="each.value">{{ shown(each.value) || '“”' }}</span>
            <span
              class="h-1.5 rounded-sm"
              :style="{ width: `${(each.count / largest) * 64}px`, background: 'var(--level)', opacity: 0.5 }"
            />
            <span class="w-14 text-right text-xs text-muted">{{ grouped(each.count) }}</span>
          </label>
          <p v-if="!profile.top.length" class="px-2 py-1 text-sm text-muted">
            {{ search ? t('profilePanel.noValueHoldsThis') : t('profilePanel.allEmpty') }}
          </p>
        </div>
        <div v-if="ticked.length" class="mt-2 flex gap-2">
          <UButton size="xs" @click="use(false)">{{
            t('profilePanel.only', {
              what: ticked.length === 1 ? t('profilePanel.this') : t('profilePanel.these', { count: ticked.length }),
            })
          }}</UButton><UButton size="xs" variant="outline" color="neutral" @click="use(true)">{{
            t('profilePanel.allBut', { what: t('profilePanel.thisThese', ticked.length) })
          }}</UButton>
        </div>
      </div>
    </template>
    <div class="grid grid-cols-2 gap-3 pt-1">
      <UFormField :label="t('profilePanel.caption')" size="sm"><UInput v-model.lazy="caption" size="sm" class="w-full" /></UFormField>
      <UFormField v-if="['number', 'date', 'moment'].includes(field.type)" :label="t('common.format')" size="sm"
        ><UInput
          v-model.lazy="format"
          size="sm"
          class="w-full font-mono"
          :placeholder="field.type === 'number' ? '#,##0.00' : (defaultPattern(field.type, field) ?? '')"
      /></UFormField>
    </div>
    <UButton
      v-if="!isTotal && !uses && !info.definition.table.startsWith('@')"
      size="xs"
      variant="ghost"
      icon="i-lucide-waypoints"
      @click="findUses"
      >{{ t('profilePanel.whereItIsUsed') }}</UButton
    >
    <ul v-if="uses" class="space-y-1 text-sm" data-field-uses>
      <li v-for="each in uses" :key="each.id">
        <span class="font-medium">{{ each.name }}</span><span class="text-muted"
          >: {{ each.uses.map(use => `${use.what} ${use.name}`).join(', ') }}</span
        >
      </li>
      <li v-if="!uses.length" class="text-muted">{{ t('profilePanel.noReportReadsIt') }}</li>
    </ul>
    <UButton v-if="!isTotal && !info.definition.table.startsWith('@')" size="xs" variant="ghost" icon="i-lucide-share-2" @click="keep">{{
      calculated ? t('profilePanel.keepThisFieldWithThe') : t('profilePanel.keepCaptionAndFormatWith')
    }}</UButton>
  </DataSidePanel>
</template>
