<script setup lang="ts">
import { clauseType, type ClauseValue, type FilterPart, filterText, filterWords, readFilter, testsFor } from '../../../core/formula/clauses'
import type { LevelInfo } from '../../../core/formula/typed'
import { parameterTypes } from '../../../core/definition/parameters'
import { checkFormula } from '../../../core/formula/check'
import { dateFormat } from '../../../core/value/dateFormat'
import { decimalText } from '../../../core/value/decimal'
import type { Proposal } from '../../composables/editor'

/** The clauses of a level as chips; each is put together by clicks or written as a formula, both ways. All must hold. */
const {
  level,
  levels = [],
  filters,
  bare = false,
} = defineProps<{
  level: LevelInfo
  levels?: readonly LevelInfo[]
  filters: readonly string[]
  /** no questions to levels below */ bare?: boolean
}>()
const emit = defineEmits<{
  change: [filters: string[]]
  /** the clause is to keep the level's parents that have such a record, or none */ parents: [clause: string, not: boolean]
}>()
const report = useReport()
const all = computed(() => (levels.length ? levels : [level]))
const kinds = computed(() => Object.fromEntries(report.definition!.parameters.map(each => [each.name, each.kind])))
const editing = ref(-1)
const part = ref<FilterPart>({ is: 'formula', text: '' })
const text = ref('')
const asFormula = ref(false)
const meaning = ref<'hide' | 'has' | 'hasNone'>('hide')
const fault = ref<{ message: string; from: number; to: number }>()

function start(index: number): void {
  editing.value = index
  fault.value = undefined
  meaning.value = 'hide'
  const before = filters[index]
  if (before === undefined) {
    const field =
      [...level.fields.values()].find(each => each.role !== 'key' && level.definition.fields.includes(each.path)) ??
      [...level.fields.values()][0]!
    const type = clauseType(field.type)
    const [test] = testsFor(type)
    const blank: ClauseValue = {
      is: 'constant',
      type,
      value: type === 'number' ? { units: 0, scale: 0 } : type === 'date' ? report.today : type === 'boolean' ? true : '',
    }
    part.value = { is: 'clause', field: field.path, test: type === 'date' ? 'atLeast' : test!, values: [blank] }
    text.value = ''
    asFormula.value = false
  } else {
    part.value = readFilter(before)
    text.value = before
    asFormula.value = part.value.is === 'formula'
  }
}
const scope = computed(() => ({
  levels: all.value,
  level: all.value.indexOf(level),
  parameters: parameterTypes(report.definition!.parameters),
  filter: true,
}))
const proposals = computed((): Proposal[] => proposalsAt(scope.value, report.definition!, { own: true }))

function switchTo(formula: boolean): void {
  if (formula === asFormula.value) return
  if (formula) text.value = filterText(part.value, kinds.value)
  else part.value = readFilter(text.value || filterText(part.value, kinds.value))
  asFormula.value = formula
  fault.value = undefined
}
function commit(close: () => void): void {
  const written = (asFormula.value ? text.value : filterText(part.value, kinds.value)).trim()
  if (written) {
    try {
      const typed = checkFormula(written, scope.value)
      if (typed.type !== 'boolean') throw Object.assign(new Error(t('filterLine.thisIsNotATest')), { from: 0, to: written.length })
    } catch (error) {
      const { message, from = 0, to = written.length } = error as Error & { from?: number; to?: number }
      fault.value = { message, from, to }
      return
    }
  }
  if (written && meaning.value !== 'hide') emit('parents', written, meaning.value === 'hasNone')
  else
    emit(
      'change',
      written
        ? editing.value < filters.length
          ? filters.map((each, index) => (index === editing.value ? written : each))
          : [...filters, written]
        : filters.filter((_, index) => index !== editing.value),
    )
  close()
}
function remove(index: number, close?: () => void): void {
  emit(
    'change',
    filters.filter((_, at) => at !== index),
  )
  close?.()
}
const captionOf = (path: string) => {
  const below = all.value.find(each => each.name === path)
  if (below) return below.caption.toLowerCase()
  for (const each of [level, ...all.value]) {
    const field = each.fields.get(path)
    if (field) return fieldTitle(field)
  }
  return path
}
const day = dateFormat('d MMM y', locale())
function valueWords(value: ClauseValue): string {
  if (value.is === 'parameter') return report.definition!.parameters.find(each => each.name === value.name)?.label ?? value.name
  if (value.is === 'formula') return value.text
  return value.type === 'date'
    ? day(value.value as number)
    : value.type === 'text'
      ? `“${String(value.value)}”`
      : value.type === 'boolean'
        ? value.value
          ? t('filterLine.yes')
          : t('filterLine.no')
        : decimalText(value.value as never)
}
const words = (filter: string) => filterWords(readFilter(filter), captionOf, valueWords, tell)
const parent = computed(() => (level.parent >= 0 ? all.value[level.parent] : undefined))
</script>

<template>
  <div class="flex flex-wrap items-center gap-1.5">
    <template v-for="(filter, index) in [...filters, '']" :key="index">
      <span v-if="index && filter" class="text-sm text-muted">{{ t('filterLine.and') }}</span>
      <UPopover :content="{ align: 'start' }" @update:open="opened => opened && start(index)">
        <button
          v-if="filter"
          class="max-w-96 truncate rounded-md border border-default bg-default px-2 py-0.5 text-sm hover:border-petrol-500"
          :title="filter"
          data-filter
        >
          {{ words(filter) }}
        </button>
        <UButton
          v-else
          size="xs"
          variant="ghost"
          icon="i-lucide-plus"
          :aria-label="t('filterLine.addAFilterTo', { caption: level.caption })"
          >{{ index ? t('filterLine.and') : t('filterLine.addAFilter') }}</UButton
        >
        <template #content="{ close }">
          <form v-if="editing === index" class="w-[560px] max-w-[90vw] space-y-2 p-3" @submit.prevent="commit(close)">
            <CodeField
              v-if="asFormula"
              v-model="text"
              language="formula"
              :label="t('filterLine.filterFormula')"
              hint="total > 1000"
              :proposals="proposals"
              :fault="fault"
              @commit="commit(close)"
            />
            <template v-else>
              <DataClauseEditor v-model="part" :level="level" :levels="bare ? [level] : all" />
              <UButton
                v-if="part.is === 'clause' || part.is === 'has'"
                size="xs"
                variant="ghost"
                icon="i-lucide-plus"
                @click="part = { is: 'group', joined: 'or', not: false, parts: [part] }"
                >{{ t('filterLine.orAnotherClause') }}</UButton
              >
              <p v-if="fault" class="text-sm text-error" role="alert">{{ tell(fault.message) }}</p>
            </template>
            <fieldset
              v-if="parent && !bare && !filter"
              class="space-y-1 border-t border-default pt-2 text-sm"
              :aria-label="t('filterLine.whatItDoes')"
            >
              <label class="flex items-center gap-2"
                ><input v-model="meaning" type="radio" value="hide" class="accent-petrol-700" />
                {{ t('filterLine.showOnlyThese', { caption: level.caption.toLowerCase() }) }}</label
              >
              <label class="flex items-center gap-2"
                ><input v-model="meaning" type="radio" value="has" class="accent-petrol-700" />
                {{ t('filterLine.onlyThatHaveSuchA', { counted: counted(2, parent.caption).replace('2 ', '') }) }}</label
              >
              <label class="flex items-center gap-2"
                ><input v-model="meaning" type="radio" value="hasNone" class="accent-petrol-700" />
                {{ t('filterLine.onlyThatHaveNoSuch', { counted: counted(2, parent.caption).replace('2 ', '') }) }}</label
              >
            </fieldset>
            <p class="text-xs text-muted">{{ t('filterLine.aClauseWhoseParameterIs') }}</p>
            <div class="flex items-center gap-2">
              <UButton type="submit" size="xs">{{ t('filterLine.use') }}</UButton>
              <UButton v-if="filter" type="button" size="xs" variant="ghost" color="error" @click="remove(index, close)">{{
                t('common.remove2')
              }}</UButton>
              <UButton type="button" size="xs" variant="ghost" color="neutral" class="ml-auto" @click="switchTo(!asFormula)">{{
                asFormula ? t('filterLine.asClauses') : t('filterLine.asAFormula')
              }}</UButton>
            </div>
          </form>
        </template>
      </UPopover>
    </template>
  </div>
</template>
