<script setup lang="ts">
import { tableLevel } from '../../../core/model/levels'
import { recordAt } from '../../../core/model/ownTable'
import { findTable, readable } from '../../../core/catalog/types'
import { removeRelated, setRelated } from '../../../core/definition/edits/levels'
import type { RelatedDefinition } from '../../../core/definition/levels'

/** How a related record is found: its own filters, which of several, and what becomes of records without one. */
const { level, record } = defineProps<{ level: string; record: string }>()
const report = useReport()
const data = useData()
const info = computed(() => data.level(level))
const related = computed(() => info.value && recordAt(info.value.definition.related, record.split('.')))
const table = computed(() => related.value && findTable(report.model!.catalog, related.value.table))
const alone = computed(() => table.value && tableLevel(table.value, record.split('.').at(-1)!))
const name = computed(() => readable(record.split('.').at(-1)!).toLowerCase())
const change = (label: string, value: Partial<Pick<RelatedDefinition, 'filters' | 'pick' | 'required'>>) =>
  report.edit(label, definition => setRelated(definition, level, record, value))
const which = computed({
  get: () => (!related.value?.pick ? 'only' : 'latest' in related.value.pick ? 'latest' : 'first'),
  set: value => {
    const dates = table.value!.columns.filter(column => column.type === 'date')
    change(t('common.whichOne'), {
      pick:
        value === 'only'
          ? undefined
          : value === 'latest'
            ? { latest: dates[0]?.name ?? '', at: ownDates.value[0] ?? 'today()' }
            : { sort: [{ field: table.value!.columns[0]!.name, descending: false }] },
    })
  },
})
const ownDates = computed(() =>
  [...(info.value?.fields.values() ?? [])]
    .filter(field => field.type === 'date' && !field.record && !field.formula)
    .map(field => field.path),
)
const dateItems = computed(() => [
  ...ownDates.value.map(path => ({ label: readable(path), value: path })),
  ...report
    .definition!.parameters.filter(each => each.kind === 'date' || each.kind === 'month')
    .map(each => ({ label: each.label, value: `param.${each.name}` })),
  { label: t('relatedPanel.today'), value: 'today()' },
])
const columns = computed(() => table.value?.columns.map(column => ({ label: readable(column.name), value: column.name })) ?? [])
const dateColumns = computed(
  () =>
    table.value?.columns.filter(column => column.type === 'date').map(column => ({ label: readable(column.name), value: column.name })) ??
    [],
)
const latest = computed(() => (related.value?.pick && 'latest' in related.value.pick ? related.value.pick : undefined))
const order = computed(() => (related.value?.pick && 'sort' in related.value.pick ? related.value.pick.sort : []))
const dropped = ref<number>()
watch(
  () => [report.definition, level, record],
  async () => {
    dropped.value = undefined
    try {
      const [all, left] = await Promise.all(
        [false, true].map(required => data.countOf(setRelated(report.definition!, level, record, { required }))),
      )
      dropped.value = all! - left!
    } catch {
      dropped.value = undefined
    }
  },
  { immediate: true },
)
const onRoot = computed(() => info.value?.parent === -1)
</script>

<template>
  <DataSidePanel
    v-if="info && related && alone"
    :title="t('relatedPanel.ofThis', { readable: readable(record.split('.').at(-1)!), caption: info.caption.toLowerCase() })"
    :level="info.index"
    data-related
  >
    <p class="-mt-1 text-sm text-muted">
      <code class="font-mono text-xs">{{ related.table }}</code>
      {{ t('relatedPanel.where', { map: related.on.map(pair => `${pair.to} = ${pair.from}`).join(' and ') }) }}
    </p>
    <section>
      <h3 class="mb-1 text-sm font-semibold">{{ t('relatedPanel.onlyRecordsWhere') }}</h3>
      <DataFilterLine
        :level="alone"
        :filters="related.filters ?? []"
        bare
        @change="filters => change(t('relatedPanel.filterOfARecord'), { filters })"
      />
    </section>
    <section class="space-y-1.5">
      <h3 class="text-sm font-semibold">{{ t('common.whichOne') }}</h3>
      <label class="flex items-center gap-2 text-sm"
        ><input v-model="which" type="radio" value="only" class="accent-petrol-700" /> {{ t('relatedPanel.theOnlyOneItsKey') }}</label
      >
      <label class="flex items-center gap-2 text-sm"
        ><input v-model="which" type="radio" value="first" class="accent-petrol-700" /> {{ t('relatedPanel.theFirstOfSeveralIn') }}</label
      >
      <div v-if="which === 'first'" class="space-y-1.5 pl-6">
        <div v-for="(sort, index) in order" :key="index" class="flex items-center gap-1.5">
          <USelectMenu
            :model-value="sort.field"
            :items="columns"
            value-key="value"
            size="sm"
            class="grow"
            :aria-label="t('relatedPanel.orderBy')"
            @update:model-value="
              (field: string) =>
                change(t('common.order'), { pick: { sort: order.map((each, at) => (at === index ? { ...each, field } : each)) } })
            "
          />
          <UButton
            size="sm"
            variant="outline"
            color="neutral"
            :icon="sort.descending ? 'i-lucide-arrow-down-wide-narrow' : 'i-lucide-arrow-up-narrow-wide'"
            :aria-label="sort.descending ? t('relatedPanel.highestFirst') : t('relatedPanel.lowestFirst')"
            @click="
              change(t('common.order'), {
                pick: { sort: order.map((each, at) => (at === index ? { ...each, descending: !each.descending } : each)) },
              })
            "
          />
        </div>
        <UButton
          size="xs"
          variant="ghost"
          icon="i-lucide-plus"
          @click="change(t('common.order'), { pick: { sort: [...order, { field: columns[0]!.value, descending: false }] } })"
          >{{ t('relatedPanel.thenBy') }}</UButton
        >
      </div>
      <label class="flex items-center gap-2 text-sm" :class="dateColumns.length ? '' : 'opacity-50'"
        ><input v-model="which" type="radio" value="latest" :disabled="!dateColumns.length" class="accent-petrol-700" />
        {{ t('relatedPanel.theLatestAtOrBefore') }}</label
      >
      <div v-if="latest" class="flex items-center gap-1.5 pl-6 text-sm">
        <USelectMenu
          :model-value="latest.latest"
          :items="dateColumns"
          value-key="value"
          size="sm"
          class="min-w-0 grow"
          :aria-label="t('relatedPanel.itsDate')"
          @update:model-value="(value: string) => change(t('relatedPanel.latest'), { pick: { ...latest!, latest: value } })"
        />
        {{ t('common.upTo') }}
        <USelectMenu
          :model-value="latest.at"
          :items="dateItems"
          value-key="value"
          size="sm"
          class="min-w-0 grow"
          :aria-label="t('relatedPanel.upToWhichDate')"
          @update:model-value="(value: string) => change(t('relatedPanel.latest'), { pick: { ...latest!, at: value } })"
        />
      </div>
    </section>
    <section class="space-y-1.5">
      <h3 class="text-sm font-semibold">{{ t('relatedPanel.whereThereIsNone') }}</h3>
      <label class="flex items-center gap-2 text-sm"
        ><input
          type="radio"
          :checked="!related.required"
          class="accent-petrol-700"
          @change="change(t('relatedPanel.optional'), { required: false })"
        />
        {{ t('relatedPanel.keepTheItsFieldsAre', { caption: info.caption.toLowerCase() }) }}</label
      >
      <label class="flex items-center gap-2 text-sm"
        ><input
          type="radio"
          :checked="related.required"
          class="accent-petrol-700"
          @change="change(t('relatedPanel.required'), { required: true })"
        />
        {{ t('relatedPanel.dropRowsWithoutOne') }}</label
      >
      <p
        v-if="onRoot && dropped !== undefined"
        class="pl-6 text-sm"
        :class="dropped ? 'text-apricot-700 dark:text-apricot-300' : 'text-muted'"
        data-dropped
      >
        {{
          dropped
            ? t('relatedPanel.no', { dropped: counted(dropped, info.caption), what: t('relatedPanel.hasHave', dropped), name }) +
              `${related.required ? t('relatedPanel.andDropped', { what: t('relatedPanel.isAre', dropped) }) : ''}.`
            : t('relatedPanel.everyHasOneNoRow', { caption: info.caption.toLowerCase() })
        }}
      </p>
    </section>
    <template #footer
      ><UButton
        size="sm"
        variant="ghost"
        color="error"
        icon="i-lucide-trash-2"
        @click="
          () => {
            report.edit(t('relatedPanel.remove', { record }), definition => removeRelated(definition, level, record))
            data.panel = undefined
          }
        "
        >{{ t('common.takeOut') }}</UButton
      ></template
    >
  </DataSidePanel>
</template>
