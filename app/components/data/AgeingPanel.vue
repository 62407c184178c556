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
  if (!formula.trim()) return { message: t('ageingPanel.say', { what }), from: 0, to: 0 }
  try {
    const typed = checkFormula(formula, scope.value)
    return typed.type === type || typed.type === 'empty'
      ? undefined
      : {
          message: t('ageingPanel.thisIsAIsNeeded', {
            what: typed.type === 'boolean' ? t('ageingPanel.yesOrNo') : t('ageingPanel.a', { type: typed.type }),
            type,
          }),
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
    ? t('common.itIsCalledByOne')
    : own.value.name !== name && info.value!.definition.ageings?.some(each => each.name === own.value.name)
      ? t('ageingPanel.thereAreAgesCalledAlready', { name: own.value.name })
      : '',
)
const columnFault = computed(() => ageingFault(own.value))
const ready = computed(
  () =>
    !nameFault.value &&
    !columnFault.value &&
    own.value.dates.length > 0 &&
    !faultOf(own.value.amount, 'number', t('ageingPanel.whatIsSorted')) &&
    !faultOf(own.value.asOf, 'date', t('ageingPanel.asOfWhen')) &&
    own.value.dates.every(date => !faultOf(date, 'date', t('ageingPanel.aDate'))),
)
const edges = computed(() => [
  { value: 'days', label: own.value.direction === 'past' ? t('ageingPanel.daysPastDue') : t('ageingPanel.daysAhead') },
  ...(own.value.direction === 'ahead'
    ? calendarEdges.map(value => ({
        value,
        label: {
          weekEnd: t('ageingPanel.endOfTheWeek'),
          monthEnd: t('ageingPanel.endOfTheMonth'),
          quarterEnd: t('ageingPanel.endOfTheQuarter'),
          yearEnd: t('ageingPanel.endOfTheYear'),
        }[value],
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
  own.value.columns = [...list.slice(0, -1), { label: t('ageingPanel.upTo', { upTo }), upTo }, list.at(-1)!]
}
function save(): void {
  if (!ready.value) return
  const clean = plain(own.value)
  clean.columns = clean.columns.map((column, index) => (index === clean.columns.length - 1 ? { label: column.label } : column))
  report.edit(t('ageingPanel.ages2', { name: clean.name }), definition => putAgeing(definition, level, clean, name || undefined))
  data.panel = undefined
}
</script>

<template>
  <DataSidePanel
    v-if="info"
    :title="name ? t('ageingPanel.ages', { name }) : t('ageingPanel.agesOf', { caption: info.caption.toLowerCase() })"
    :level="info.index"
    data-ageing
  >
    <UFormField v-if="!name" :label="t('common.name')" size="sm" :error="nameFault || undefined" eager-validation
      ><UInput v-model="own.name" size="sm" class="w-full font-mono"
    /></UFormField>
    <UFormField :label="t('common.amount')" size="sm"
      ><CodeField
        v-model="own.amount"
        language="formula"
        :label="t('ageingPanel.amountThatIsSorted')"
        :lines="1"
        :proposals="proposals"
        :fault="faultOf(own.amount, 'number', t('ageingPanel.whatIsSortedByAge'))"
    /></UFormField>
    <UFormField :label="t('ageingPanel.asOf')" size="sm"
      ><CodeField
        v-model="own.asOf"
        language="formula"
        :label="t('ageingPanel.asOf')"
        :lines="1"
        :proposals="proposals"
        :fault="faultOf(own.asOf, 'date', t('ageingPanel.asOfWhichDate'))"
    /></UFormField>
    <section>
      <h3 class="mb-1 text-sm font-semibold">
        {{ t('ageingPanel.datedBy') }} <span class="font-normal text-muted">{{ t('ageingPanel.theFirstOfTheseThat') }}</span>
      </h3>
      <div v-for="(date, index) in own.dates" :key="index" class="mb-1 flex items-start gap-1">
        <CodeField
          class="grow"
          :model-value="date"
          language="formula"
          :label="t('ageingPanel.date', { what: index + 1 })"
          :lines="1"
          :proposals="proposals"
          :fault="faultOf(date, 'date', t('ageingPanel.aDate'))"
          @update:model-value="(text: string) => (own.dates[index] = text)"
        />
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('ageingPanel.takeOutDate', { what: index + 1 })"
          @click="own.dates.splice(index, 1)"
        />
      </div>
      <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="own.dates.push('')">{{ t('ageingPanel.date2') }}</UButton>
    </section>
    <section>
      <div class="mb-1 flex items-center gap-2">
        <h3 class="text-sm font-semibold">{{ t('common.columns') }}</h3>
        <USelect
          :model-value="own.direction"
          :items="[
            { value: 'past', label: t('ageingPanel.byAge') },
            { value: 'ahead', label: t('ageingPanel.lookingForward') },
          ]"
          size="xs"
          class="ml-auto w-36"
          :aria-label="t('ageingPanel.direction')"
          @update:model-value="value => turn(String(value))"
        />
      </div>
      <VueDraggable v-model="own.columns" handle="[data-grip]" :animation="120" class="space-y-1">
        <div v-for="(column, index) in own.columns" :key="index" class="flex items-center gap-1" :data-age-column="index">
          <UIcon name="i-lucide-grip-vertical" class="size-4 shrink-0 cursor-grab text-dimmed" data-grip />
          <UInput v-model="column.label" size="xs" class="w-24" :aria-label="t('ageingPanel.labelOfColumn', { what: index + 1 })" />
          <template v-if="index < own.columns.length - 1">
            <span class="shrink-0 text-xs text-muted">{{ t('common.upTo') }}</span>
            <UInput
              v-if="typeof column.upTo !== 'string'"
              :model-value="column.upTo"
              type="number"
              size="xs"
              class="w-16"
              :aria-label="t('ageingPanel.upperEdgeOfColumn', { what: index + 1 })"
              @update:model-value="value => (column.upTo = Math.round(Number(value)))"
            />
            <USelect
              v-if="edges.length > 1"
              :model-value="typeof column.upTo === 'string' ? column.upTo : 'days'"
              :items="edges"
              size="xs"
              class="min-w-0 grow"
              :aria-label="t('ageingPanel.kindOfEdgeOfColumn', { what: index + 1 })"
              @update:model-value="value => (column.upTo = value === 'days' ? 30 : (value as 'weekEnd'))"
            />
            <span v-else class="grow text-xs text-muted">{{ t('ageingPanel.daysPastDue') }}</span>
          </template>
          <span v-else class="grow text-xs text-muted">{{ t('ageingPanel.allBeyond') }}</span>
          <UButton
            v-if="own.columns.length > 2 && index < own.columns.length - 1"
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            :aria-label="t('ageingPanel.takeOutColumn', { label: column.label })"
            class="p-0.5"
            @click="own.columns.splice(index, 1)"
          />
        </div>
      </VueDraggable>
      <UButton size="xs" variant="ghost" icon="i-lucide-plus" class="mt-1" @click="addColumn">{{ t('ageingPanel.column') }}</UButton>
      <p v-if="columnFault" class="mt-1 text-sm text-error" role="alert">{{ columnFault }}</p>
    </section>
    <p class="text-sm text-muted">
      {{ t('ageingPanel.eachRecordStandsInExactly') }}
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
            report.edit(t('common.remove', { name }), definition => removeAgeing(definition, level, name))
            data.panel = undefined
          }
        "
        >{{ t('common.takeOut') }}</UButton
      >
    </template>
  </DataSidePanel>
</template>
