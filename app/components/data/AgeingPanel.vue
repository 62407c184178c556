<script setup lang="ts">
import { VueDraggable } from 'vue-draggable-plus'
import { ageingFault } from '../../../core/model/ageing'
import { aheadColumns, pastColumns, putAgeing, removeAgeing } from '../../../core/definition/edits/ageing'
import { freeId } from '../../../core/definition/edits/edits'
import { type AgeingDefinition, calendarEdges } from '../../../core/definition/levels'
import { checkFormula } from '../../../core/formula/check'
import { isPlainName } from '../../../core/formula/syntax'

/** An amount sorted into columns by age: a setting of a level that tables follow. */
const { level, name = '' } = defineProps<{ level: string; name?: string }>()
const report = useReport()
const data = useData()
const info = computed(() => data.level(level))
const fields = computed(() => [...(info.value?.fields.values() ?? [])])
const own = ref<AgeingDefinition>({ name: '', amount: '', asOf: 'today()', dates: [], direction: 'past', columns: plain(pastColumns) })

watch(
  () => [level, name],
  () => {
    const known = info.value?.definition.ageings?.find(each => each.name === name)
    if (known) {
      own.value = plain(known)
      return
    }
    const amount =
      fields.value.find(field => field.type === 'number' && /^(base_open|open|amount|total)$/.test(field.path)) ??
      fields.value.find(field => field.type === 'number' && field.role === 'measure')
    const dates = fields.value.filter(field => field.type === 'date' && !field.record).map(field => field.path)
    const due = dates.find(date => /due|expected/.test(date))
    const document = dates.find(date => date !== due)
    const terms = fields.value.find(field => field.type === 'number' && /(terms.*days|^days$|\.days$)/.test(field.path))?.path
    const parameter = report.definition!.parameters.find(each => each.kind === 'date')
    own.value = {
      name: freeId(
        'age',
        [...(info.value!.definition.ageings ?? [])].map(each => each.name),
        true,
      ),
      amount: amount?.path ?? '',
      asOf: parameter ? `param.${parameter.name}` : 'today()',
      dates: [...(due ? [due] : []), ...(terms && document ? [`addDays(${document}, ${terms})`] : []), ...(document ? [document] : [])],
      direction: 'past',
      columns: plain(pastColumns),
    }
  },
  { immediate: true },
)

const scope = computed(() => ({ levels: data.tree!.levels, level: info.value!.index, parameters: report.model!.parameterTypes }))
const proposals = computed(() => (info.value ? proposalsAt(scope.value, report.definition!, { own: true }) : []))
function faultOf(formula: string, type: 'number' | 'date', what: string): { message: string; from: number; to: number } | undefined {
  if (!formula.trim()) return { message: `Say ${what}.`, from: 0, to: 0 }
  try {
    const typed = checkFormula(formula, scope.value)
    return typed.type === type || typed.type === 'empty'
      ? undefined
      : {
          message: `This is ${typed.type === 'boolean' ? 'yes or no' : `a ${typed.type}`}; a ${type} is needed.`,
          from: 0,
          to: formula.length,
        }
  } catch (error) {
    const { message, from = 0, to = 0 } = error as Error & { from?: number; to?: number }
    return { message, from, to }
  }
}
const nameFault = computed(() =>
  !isPlainName(own.value.name)
    ? 'It is called by one word of letters, digits and _.'
    : own.value.name !== name && info.value!.definition.ageings?.some(each => each.name === own.value.name)
      ? `There are ages called “${own.value.name}” already; choose another name.`
      : '',
)
const columnFault = computed(() => ageingFault(own.value))
const ready = computed(
  () =>
    !nameFault.value &&
    !columnFault.value &&
    own.value.dates.length > 0 &&
    !faultOf(own.value.amount, 'number', 'what is sorted') &&
    !faultOf(own.value.asOf, 'date', 'as of when') &&
    own.value.dates.every(date => !faultOf(date, 'date', 'a date')),
)
const edges = computed(() => [
  { value: 'days', label: own.value.direction === 'past' ? 'days past due' : 'days ahead' },
  ...(own.value.direction === 'ahead'
    ? calendarEdges.map(value => ({
        value,
        label: { weekEnd: 'end of the week', monthEnd: 'end of the month', quarterEnd: 'end of the quarter', yearEnd: 'end of the year' }[
          value
        ],
      }))
    : []),
])
function turn(direction: string): void {
  own.value = { ...own.value, direction: direction as 'past', columns: plain(direction === 'past' ? pastColumns : aheadColumns) }
}
function addColumn(): void {
  const list = own.value.columns
  const before = list.at(-2)?.upTo
  const upTo = typeof before === 'number' ? before + 30 : 30
  own.value.columns = [...list.slice(0, -1), { label: `Up to ${upTo}`, upTo }, list.at(-1)!]
}
function save(): void {
  if (!ready.value) return
  const clean = plain(own.value)
  clean.columns = clean.columns.map((column, index) => (index === clean.columns.length - 1 ? { label: column.label } : column))
  report.edit(`Ages ${clean.name}`, definition => putAgeing(definition, level, clean, name || undefined))
  data.panel = undefined
}
</script>

<template>
  <DataSidePanel v-if="info" :title="name ? `Ages “${name}”` : `Ages of ${info.caption.toLowerCase()}`" :level="info.index" data-ageing>
    <UFormField v-if="!name" label="Name" size="sm" :error="nameFault || undefined" eager-validation
      ><UInput v-model="own.name" size="sm" class="w-full font-mono"
    /></UFormField>
    <UFormField label="Amount" size="sm"
      ><CodeField
        v-model="own.amount"
        language="formula"
        label="Amount that is sorted"
        :lines="1"
        :proposals="proposals"
        :fault="faultOf(own.amount, 'number', 'what is sorted by age')"
    /></UFormField>
    <UFormField label="As of" size="sm"
      ><CodeField
        v-model="own.asOf"
        language="formula"
        label="As of"
        :lines="1"
        :proposals="proposals"
        :fault="faultOf(own.asOf, 'date', 'as of which date')"
    /></UFormField>
    <section>
      <h3 class="mb-1 text-sm font-semibold">Dated by <span class="font-normal text-muted">the first of these that is not empty</span></h3>
      <div v-for="(date, index) in own.dates" :key="index" class="mb-1 flex items-start gap-1">
        <CodeField
          class="grow"
          :model-value="date"
          language="formula"
          :label="`Date ${index + 1}`"
          :lines="1"
          :proposals="proposals"
          :fault="faultOf(date, 'date', 'a date')"
          @update:model-value="(text: string) => (own.dates[index] = text)"
        />
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="`Take out date ${index + 1}`"
          @click="own.dates.splice(index, 1)"
        />
      </div>
      <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="own.dates.push('')">date</UButton>
    </section>
    <section>
      <div class="mb-1 flex items-center gap-2">
        <h3 class="text-sm font-semibold">Columns</h3>
        <USelect
          :model-value="own.direction"
          :items="[
            { value: 'past', label: 'by age' },
            { value: 'ahead', label: 'looking forward' },
          ]"
          size="xs"
          class="ml-auto w-36"
          aria-label="Direction"
          @update:model-value="value => turn(String(value))"
        />
      </div>
      <VueDraggable v-model="own.columns" handle="[data-grip]" :animation="120" class="space-y-1">
        <div v-for="(column, index) in own.columns" :key="index" class="flex items-center gap-1" :data-age-column="index">
          <UIcon name="i-lucide-grip-vertical" class="size-4 shrink-0 cursor-grab text-dimmed" data-grip />
          <UInput v-model="column.label" size="xs" class="w-24" :aria-label="`Label of column ${index + 1}`" />
          <template v-if="index < own.columns.length - 1">
            <span class="shrink-0 text-xs text-muted">up to</span>
            <UInput
              v-if="typeof column.upTo !== 'string'"
              :model-value="column.upTo"
              type="number"
              size="xs"
              class="w-16"
              :aria-label="`Upper edge of column ${index + 1}`"
              @update:model-value="value => (column.upTo = Math.round(Number(value)))"
            />
            <USelect
              v-if="edges.length > 1"
              :model-value="typeof column.upTo === 'string' ? column.upTo : 'days'"
              :items="edges"
              size="xs"
              class="min-w-0 grow"
              :aria-label="`Kind of edge of column ${index + 1}`"
              @update:model-value="value => (column.upTo = value === 'days' ? 30 : (value as 'weekEnd'))"
            />
            <span v-else class="grow text-xs text-muted">days past due</span>
          </template>
          <span v-else class="grow text-xs text-muted">all beyond</span>
          <UButton
            v-if="own.columns.length > 2 && index < own.columns.length - 1"
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            :aria-label="`Take out column ${column.label}`"
            class="p-0.5"
            @click="own.columns.splice(index, 1)"
          />
        </div>
      </VueDraggable>
      <UButton size="xs" variant="ghost" icon="i-lucide-plus" class="mt-1" @click="addColumn">column</UButton>
      <p v-if="columnFault" class="mt-1 text-sm text-error" role="alert">{{ columnFault }}</p>
    </section>
    <p class="text-sm text-muted">
      Each record stands in exactly one column; day 0 is not due. On the page, tables that show these columns follow a change here.
    </p>
    <template #footer>
      <UButton size="sm" :disabled="!ready" @click="save">{{ name ? 'Change' : 'Add' }}</UButton>
      <UButton
        v-if="name"
        size="sm"
        variant="ghost"
        color="error"
        icon="i-lucide-trash-2"
        @click="
          () => {
            report.edit(`Remove ${name}`, definition => removeAgeing(definition, level, name))
            data.panel = undefined
          }
        "
        >Take out</UButton
      >
    </template>
  </DataSidePanel>
</template>
