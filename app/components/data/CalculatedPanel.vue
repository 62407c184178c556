<script setup lang="ts">
import { type Column, valueAt } from '../../../core/value/columns'
import { putCalculated, removeCalculated } from '../../../core/definition/edits/levels'
import { checkFormula } from '../../../core/formula/check'
import { scaleOf } from '../../../core/formula/scale'
import { isRatio, type TotalledAs } from '../../../core/formula/ratio'
import type { Typed } from '../../../core/formula/typed'
import { hasSql } from '../../../core/formula/sql'
import { FormulaError, isPlainName } from '../../../core/formula/syntax'
import { unpackRows } from '../../stores/report'

/** A calculated field: its name, its formula, what comes out of it, live. */
const { level, name = '' } = defineProps<{ level: string; name?: string }>()
const report = useReport()
const data = useData()
const info = computed(() => data.level(level))
const title = ref('')
const text = ref('')
const own = ref<TotalledAs>()
watch(
  () => [level, name],
  () => {
    title.value = name
    const known = info.value?.definition.calculated?.find(each => each.name === name)
    text.value = known?.formula ?? ''
    own.value = known?.total
  },
  { immediate: true },
)
const scope = computed(() => ({ levels: data.tree!.levels, level: info.value!.index, parameters: report.model!.parameterTypes }))
const proposals = computed(() => proposalsAt(scope.value, report.definition!).filter(each => each.insert !== name))
const checked = computed((): { typed?: Typed; fault?: { message: string; from: number; to: number } } => {
  if (!text.value.trim()) return {}
  try {
    return { typed: checkFormula(text.value, scope.value) }
  } catch (error) {
    return { fault: error instanceof FormulaError ? error : { message: (error as Error).message, from: 0, to: text.value.length } }
  }
})
const nameFault = computed(() => {
  if (!title.value) return ''
  if (!isPlainName(title.value)) return t('calculatedPanel.aFieldIsCalledBy')
  return title.value !== name && info.value!.fields.has(title.value)
    ? t('calculatedPanel.thereIsAFieldAlready', { value: title.value })
    : ''
})
const kind = computed(() => {
  const { typed } = checked.value
  if (!typed) return ''
  const type = {
    number: t('calculatedPanel.aNumber'),
    text: t('calculatedPanel.aText'),
    date: t('calculatedPanel.aDate'),
    moment: t('calculatedPanel.aDateWithATime'),
    boolean: t('calculatedPanel.yesOrNo'),
    empty: t('calculatedPanel.alwaysEmpty'),
  }[typed.type]
  const where = hasSql(typed, info.value!.index) ? t('calculatedPanel.workedOutInTheDatabase') : t('calculatedPanel.workedOutAfterReading')
  return `${type} · ${where}`
})
/** how it is totalled: its author's choice, else what its formula says */
const total = computed({
  get: () => own.value ?? (checked.value.typed && isRatio(checked.value.typed) ? 'ratio' : 'records'),
  set: chosen => (own.value = chosen),
})
const divides = computed(() => checked.value.typed?.type === 'number' && isRatio(checked.value.typed, true))

const values = ref<string[]>([])
const problem = ref('')
let stop: AbortController | undefined
const preview = useDebounceFn(async () => {
  stop?.abort()
  const { typed } = checked.value
  if (!typed) return
  const mine = (stop = new AbortController())
  const trial = 'estante_trial'
  try {
    const found = unpackRows(
      await apiBytes('/api/rows', {
        method: 'POST',
        signal: mine.signal,
        body: {
          definition: putCalculated(report.definition!, level, { name: trial, formula: text.value }),
          answers: report.answers,
          limit: 10,
          dataSet: data.current,
        },
      }),
    )
    if (mine !== stop) return
    const column = found.records.levels[info.value!.index]!.columns[trial] as Column
    const field = {
      ...[...info.value!.fields.values()][0]!,
      type: typed.type === 'empty' ? ('text' as const) : typed.type,
      role: 'measure' as const,
      scale: scaleOf(typed),
      format: undefined,
    }
    values.value = Array.from({ length: Math.min(10, found.records.levels[info.value!.index]!.count) }, (_, row) =>
      fieldText(field, valueAt(column, row), report.definition!.language),
    )
    problem.value = ''
  } catch (error) {
    if (!mine.signal.aborted) problem.value = (error as Error).message
  }
}, 250)
watch([text, () => report.definition], () => void preview(), { immediate: true })
onBeforeUnmount(() => stop?.abort())

const ready = computed(() => !!title.value && !nameFault.value && !!checked.value.typed)
function save(): void {
  if (!ready.value) return
  report.edit(t('calculatedPanel.calculate', { value: title.value }), definition =>
    putCalculated(
      definition,
      level,
      { name: title.value, formula: text.value, ...(divides.value && own.value ? { total: own.value } : {}) },
      name || undefined,
    ),
  )
  data.panel = { kind: 'profile', level, path: title.value }
}
</script>

<template>
  <DataSidePanel
    v-if="info"
    :title="
      name
        ? t('calculatedPanel.calculatedField', { name })
        : t('calculatedPanel.aCalculatedFieldOf', { caption: info.caption.toLowerCase() })
    "
    :level="info.index"
    data-calculated
  >
    <UFormField :label="t('common.name')" size="sm" :error="nameFault || undefined" eager-validation
      ><UInput v-model="title" size="sm" class="w-full font-mono" :placeholder="t('calculatedPanel.open')" autofocus
    /></UFormField>
    <UFormField :label="t('common.formula')" size="sm"
      ><CodeField
        v-model="text"
        language="formula"
        :label="t('calculatedPanel.formulaOfTheField')"
        :lines="4"
        :hint="t('calculatedPanel.totalPaid')"
        :proposals="proposals"
        :fault="checked.fault"
        @commit="save"
    /></UFormField>
    <p v-if="kind" class="text-sm text-muted" data-result-type>{{ kind }}</p>
    <TotalledChoice v-if="divides" v-model="total" />
    <section v-if="checked.typed">
      <h3 class="text-sm font-semibold">{{ t('calculatedPanel.firstValues') }}</h3>
      <p v-if="problem" class="text-sm text-error" role="alert">{{ tell(problem) }}</p>
      <ol v-else class="mt-1 rounded-md border border-default bg-default px-3 py-1 text-sm" data-values>
        <li v-for="(value, index) in values" :key="index" class="truncate" :class="checked.typed.type === 'number' ? 'text-right' : ''">
          {{ value || '·' }}
        </li>
      </ol>
    </section>
    <p class="text-xs text-muted">
      {{ t('calculatedPanel.ctrlSpaceProposesFieldsAnd') }}
    </p>
    <template #footer>
      <UButton size="sm" :disabled="!ready" @click="save">{{ name ? t('common.change') : t('common.add') }}</UButton>
      <UButton
        v-if="name"
        size="sm"
        variant="ghost"
        color="error"
        icon="i-lucide-trash-2"
        @click="
          () => {
            report.edit(t('common.remove', { name }), definition => removeCalculated(definition, level, name))
            data.panel = undefined
          }
        "
        >{{ t('common.takeOut') }}</UButton
      >
    </template>
  </DataSidePanel>
</template>
