<script setup lang="ts">
import { joinCandidates } from '../../../core/catalog/joins'
import { findTable, readable } from '../../../core/catalog/types'
import { tableLevel } from '../../../core/model/levels'
import { freeId } from '../../../core/definition/edits/edits'
import { putTotal, removeTotal } from '../../../core/definition/edits/levels'
import type { ChildTotalDefinition } from '../../../core/definition/levels'
import { checkFormula } from '../../../core/formula/check'
import { isPlainName } from '../../../core/formula/syntax'

/** A child table added up on its parent, with filters of its own. */
const { level, name = '' } = defineProps<{ level: string; name?: string }>()
const report = useReport()
const data = useData()
const info = computed(() => data.level(level))
const catalog = computed(() => report.model!.catalog)
const children = computed(() => joinCandidates(catalog.value, info.value!.definition.table).filter(each => each.direction === 'detail'))
const total = ref<ChildTotalDefinition>({ name: '', table: '', on: [], total: 'sum', filters: [] })
const kinds = [
  { value: 'sum', label: t('totalPanel.sum') },
  { value: 'count', label: t('totalPanel.count') },
  { value: 'min', label: t('totalPanel.lowest') },
  { value: 'max', label: t('totalPanel.highest') },
  { value: 'latest', label: t('totalPanel.latest') },
]
const keyOf = (each: { table: string; on: unknown }) => `${each.table} ${JSON.stringify(each.on)}`
/** What a table is split by beside what joins it, where it is. */
const by = (name: string) => {
  const [, split] = name.split('_by_')
  return split ? t('totalPanel.by', { split: split.replaceAll('_', ' ') }) : ''
}
const items = computed(() =>
  children.value.map(each => ({
    label: `${readable(each.table)}${by(each.name)}`,
    value: keyOf(each),
    hint: each.on.map(pair => pair.to).join(', '),
  })),
)
function choose(key: string): void {
  const found = children.value.find(each => keyOf(each) === key)
  if (!found) return
  const columns = findTable(catalog.value, found.table)?.columns ?? []
  const amount =
    columns.find(column => column.type === 'number' && /amount|total|quantity/.test(column.name)) ??
    columns.find(column => column.type === 'number' && column.scale)
  total.value = {
    name: total.value.name || freeId(found.table.replace(/\W+/g, '_'), [...info.value!.fields.keys()], true),
    table: found.table,
    on: found.on.map(pair => ({ ...pair })),
    total: amount ? 'sum' : 'count',
    ...(amount ? { value: amount.name } : {}),
    ...(dateOf(found.table) ? { by: dateOf(found.table) } : {}),
    filters: [],
  }
}
const dateOf = (table: string) => findTable(catalog.value, table)?.columns.find(column => column.type === 'date')?.name
watch(
  () => [level, name],
  () => {
    const known = info.value?.definition.totals?.find(each => each.name === name)
    if (known) total.value = plain(known)
    else if (children.value[0]) choose(keyOf(children.value[0]))
  },
  { immediate: true },
)
const child = computed(() => {
  const table = findTable(catalog.value, total.value.table)
  return table && tableLevel(table, total.value.name || 'child')
})
const proposals = computed(() =>
  child.value
    ? proposalsAt({ levels: [child.value], level: 0, parameters: report.model!.parameterTypes }, report.definition!, { own: true })
    : [],
)
const dates = computed(() =>
  [...(child.value?.fields.values() ?? [])]
    .filter(field => field.type === 'date' || field.type === 'number')
    .map(field => ({ label: readable(field.path), value: field.path })),
)
const fault = computed((): { message: string; from: number; to: number } | undefined => {
  if (!child.value || !total.value.value?.trim()) return undefined
  try {
    const typed = checkFormula(total.value.value, {
      levels: [child.value],
      level: 0,
      parameters: report.model!.parameterTypes,
      filter: true,
    })
    return total.value.total === 'sum' && typed.type !== 'number'
      ? { message: t('totalPanel.onlyNumbersAreAddedUp'), from: 0, to: total.value.value.length }
      : undefined
  } catch (error) {
    const { message, from = 0, to = 0 } = error as Error & { from?: number; to?: number }
    return { message, from, to }
  }
})
const nameFault = computed(() =>
  total.value.name && !isPlainName(total.value.name)
    ? t('totalPanel.aFieldIsCalledBy')
    : total.value.name !== name && info.value!.fields.has(total.value.name)
      ? t('totalPanel.thereIsAFieldAlready', { name: total.value.name })
      : '',
)
const ready = computed(
  () =>
    total.value.table &&
    total.value.name &&
    !nameFault.value &&
    !fault.value &&
    (total.value.total === 'count' || total.value.value?.trim()) &&
    (total.value.total !== 'latest' || total.value.by),
)
const value = computed({ get: () => total.value.value ?? '', set: text => (total.value = { ...total.value, value: text }) })
const sentence = computed(() => {
  const words = {
    name: total.value.name ? readable(total.value.name) : t('totalPanel.it'),
    total: kinds.find(each => each.value === total.value.total)!.label,
    table: readable(total.value.table).toLowerCase(),
  }
  return total.value.total === 'count'
    ? t('totalPanel.countOf', words)
    : t('totalPanel.totalOf', { ...words, value: total.value.value || '…' })
})
function save(): void {
  if (!ready.value) return
  const { by, value: formula, ...rest } = total.value
  const clean: ChildTotalDefinition = {
    ...rest,
    ...(formula?.trim() && (rest.total !== 'count' || formula.trim()) ? { value: formula } : {}),
    ...(rest.total === 'latest' ? { by: by! } : {}),
  }
  if (clean.total === 'count') delete clean.value
  report.edit(t('totalPanel.childTotal', { name: clean.name }), definition => putTotal(definition, level, plain(clean), name || undefined))
  data.panel = { kind: 'profile', level, path: clean.name }
}
</script>

<template>
  <DataSidePanel
    v-if="info"
    :title="name ? t('totalPanel.childTotal', { name }) : t('totalPanel.aChildTotalOf', { caption: info.caption.toLowerCase() })"
    :level="info.index"
    data-total
  >
    <p v-if="!children.length" class="text-sm text-muted">
      {{ t('totalPanel.noTablePointsAtJoin', { caption: info.caption.toLowerCase() }) }}
    </p>
    <template v-else>
      <UFormField :label="t('totalPanel.addedUpFrom')" size="sm"
        ><USelectMenu
          :model-value="keyOf(total)"
          :items="items"
          value-key="value"
          size="sm"
          class="w-full"
          :aria-label="t('totalPanel.childTable')"
          @update:model-value="(key: string) => choose(key)"
          ><template #item-trailing="{ item }"
            ><span class="text-xs text-dimmed">{{ item.hint }}</span></template
          ></USelectMenu
        ></UFormField
      >
      <div class="flex gap-2">
        <UFormField :label="t('totalPanel.what')" size="sm"
          ><USelect v-model="total.total" :items="kinds" size="sm" class="w-28" :aria-label="t('totalPanel.whichTotal')"
        /></UFormField>
        <UFormField :label="t('common.name')" size="sm" class="grow" :error="nameFault || undefined" eager-validation
          ><UInput v-model="total.name" size="sm" class="w-full font-mono"
        /></UFormField>
      </div>
      <UFormField v-if="total.total !== 'count'" :label="t('totalPanel.of')" size="sm"
        ><CodeField
          v-model="value"
          language="formula"
          :label="t('totalPanel.whatIsAddedUp')"
          :lines="1"
          :proposals="proposals"
          :fault="fault"
          :hint="t('totalPanel.amount')"
      /></UFormField>
      <UFormField v-if="total.total === 'latest'" :label="t('totalPanel.theLatestBy')" size="sm"
        ><USelectMenu
          v-model="total.by"
          :items="dates"
          value-key="value"
          size="sm"
          class="w-full"
          :aria-label="t('totalPanel.theLatestBy')"
      /></UFormField>
      <section v-if="child">
        <h3 class="mb-1 text-sm font-semibold">{{ t('common.onlyWhere') }}</h3>
        <DataFilterLine :level="child" :filters="total.filters" bare @change="filters => (total = { ...total, filters })" />
      </section>
      <p class="text-sm text-muted">{{ t('totalPanel.filtersOfRowsThatAre', { sentence }) }}</p>
    </template>
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
            report.edit(t('common.remove', { name }), definition => removeTotal(definition, level, name))
            data.panel = undefined
          }
        "
        >{{ t('common.takeOut') }}</UButton
      >
    </template>
  </DataSidePanel>
</template>
