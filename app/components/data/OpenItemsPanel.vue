<script setup lang="ts">
import { readable } from '../../../core/catalog/types'
import type { LevelInfo } from '../../../core/formula/typed'
import { levelTree } from '../../../core/model/levels'
import { tablesOf } from '../../../core/model/model'
import { openItemsLevel, proposeOpenItems } from '../../../core/model/openItems'
import { addDataSet, putTable, removeTable } from '../../../core/definition/edits/dataSets'
import { freeId } from '../../../core/definition/edits/edits'
import type { OpenItemsPart, OpenItemsTable } from '../../../core/definition/tables'
import { checkFormula } from '../../../core/formula/check'
import { isPlainName } from '../../../core/formula/syntax'

/** What of documents and money is not settled at a date: proposed from what the source applies to what, each formula open to change. */
const { name = '' } = defineProps<{ name?: string }>()
const report = useReport()
const data = useData()
const ways = computed(() => proposeOpenItems(report.catalog!))
const own = ref<OpenItemsTable>({ kind: 'openItems', name: '', asOf: 'today()', columns: [], parts: [] })
const chosen = ref('')
const taken = computed(() =>
  [...report.definition!.dataSets, ...(report.definition!.tables ?? [])].map(each => each.name).filter(each => each !== name),
)
const wayItems = computed(() =>
  ways.value.map(way => ({
    value: way.applications,
    label: t('openItemsPanel.of3', {
      map: way.table.parts.map(part => readable(part.table)).join(' and '),
      readable: readable(way.party).toLowerCase(),
    }),
    hint: t('openItemsPanel.by2', { readable: readable(way.applications).toLowerCase() }),
  })),
)

function choose(applications: string): void {
  const way = ways.value.find(each => each.applications === applications)
  if (!way) return
  chosen.value = applications
  const date = report.definition!.parameters.find(each => each.kind === 'date')
  own.value = {
    ...plain(way.table),
    name: own.value.name || freeId('open_items', taken.value, true),
    asOf: date ? `param.${date.name}` : 'today()',
  }
}
watch(
  () => name,
  () => {
    const known = report.definition!.tables?.find(each => each.name === name)
    if (known?.kind === 'openItems') {
      own.value = plain(known)
      chosen.value = known.parts[0]?.settled[0]?.table ?? ''
    } else if (ways.value[0]) choose(ways.value[0].applications)
  },
  { immediate: true },
)

const levelOf = (part: OpenItemsPart): LevelInfo =>
  levelTree(
    {
      name: 'part',
      source: '',
      fields: {},
      root: { name: 'part', table: part.table, on: [], fields: [], related: part.related, details: [], filters: [], sort: [] },
    },
    report.model!.catalog,
  ).levels[0]!
const levels = computed(() => own.value.parts.map(levelOf))
const proposals = computed(() =>
  levels.value.map(level =>
    proposalsAt({ levels: [level], level: 0, parameters: report.model!.parameterTypes }, report.definition!, { own: true }),
  ),
)
function faultOf(part: number, formula: string, type: 'number' | 'date'): { message: string; from: number; to: number } | undefined {
  try {
    const typed = checkFormula(formula, { levels: [levels.value[part]!], level: 0, parameters: report.model!.parameterTypes, filter: true })
    return typed.type === type ? undefined : { message: t('openItemsPanel.aIsNeededHere', { type }), from: 0, to: formula.length }
  } catch (error) {
    const { message, from = 0, to = 0 } = error as Error & { from?: number; to?: number }
    return { message, from, to }
  }
}
const dateFault = computed(() => {
  try {
    return checkFormula(own.value.asOf, { levels: [], level: -1, parameters: report.model!.parameterTypes }).type === 'date'
      ? undefined
      : { message: t('openItemsPanel.aDateIsNeededHere'), from: 0, to: own.value.asOf.length }
  } catch (error) {
    const { message, from = 0, to = 0 } = error as Error & { from?: number; to?: number }
    return { message, from, to }
  }
})
const nameFault = computed(() =>
  !isPlainName(own.value.name)
    ? t('common.itIsCalledByOne')
    : taken.value.includes(own.value.name)
      ? t('openItemsPanel.thereIsADataSet', { name: own.value.name })
      : '',
)
const rows = [
  ['date', 'date', t('common.date')],
  ['amount', 'number', t('common.amount')],
  ['booked', 'number', t('openItemsPanel.bookedAmount')],
] as const
const ready = computed(
  () =>
    own.value.parts.length > 0 &&
    !nameFault.value &&
    !dateFault.value &&
    own.value.parts.every((part, index) => rows.every(([key, type]) => !faultOf(index, part[key], type))),
)
const used = computed(() => (name ? report.definition!.dataSets.some(dataSet => tablesOf(dataSet.root).includes(`@${name}`)) : false))
function save(): void {
  if (!ready.value) return
  const table = plain(own.value)
  const party = ways.value.find(way => way.applications === chosen.value)?.party
  report.edit(readable(table.name), definition => {
    const next = putTable(definition, table, name || undefined)
    return name ? next : addDataSet(next, `${table.name}_set`, openItemsLevel(table, report.catalog!, party))
  })
  if (!name) data.index = report.definition!.dataSets.length - 1
  data.panel = undefined
}
</script>

<template>
  <DataSidePanel :title="name ? t('openItemsPanel.openItems', { name }) : t('openItemsPanel.openItems2')" data-open-items>
    <p v-if="!ways.length && !name" class="text-sm text-muted">
      {{ t('openItemsPanel.noTableOfThisSource') }}
    </p>
    <template v-else>
      <UFormField v-if="!name" :label="t('openItemsPanel.of')" size="sm"
        ><USelectMenu
          :model-value="chosen"
          :items="wayItems"
          value-key="value"
          size="sm"
          class="w-full"
          :aria-label="t('openItemsPanel.documentsAndMoney')"
          @update:model-value="(value: string) => choose(value)"
          ><template #item-trailing="{ item }"
            ><span class="text-xs text-dimmed">{{ item.hint }}</span></template
          ></USelectMenu
        ></UFormField
      >
      <UFormField :label="t('common.name')" size="sm" :error="nameFault || undefined" eager-validation
        ><UInput v-model="own.name" size="sm" class="w-full font-mono"
      /></UFormField>
      <UFormField :label="t('openItemsPanel.asOf')" size="sm"
        ><CodeField
          v-model="own.asOf"
          language="formula"
          :label="t('openItemsPanel.asOf')"
          :lines="1"
          :proposals="proposals[0] ?? []"
          :fault="dateFault"
      /></UFormField>
      <section
        v-for="(part, index) in own.parts"
        :key="part.table"
        class="space-y-1.5 rounded-md border border-default p-3"
        :data-part="part.table"
      >
        <div class="flex items-center gap-2">
          <h3 class="text-sm font-semibold">{{ readable(part.table) }}</h3>
          <UInput v-model="part.label" size="xs" class="ml-auto w-32" :aria-label="t('openItemsPanel.kindOf', { table: part.table })" />
        </div>
        <label v-for="[key, type, label] in rows" :key="key" class="flex items-start gap-2"
          ><span class="w-24 shrink-0 pt-1 text-sm text-muted">{{ label }}</span
          ><CodeField
            class="grow"
            :model-value="part[key]"
            language="formula"
            :label="t('openItemsPanel.of2', { label, table: part.table })"
            :lines="1"
            :proposals="proposals[index] ?? []"
            :fault="faultOf(index, part[key], type)"
            @update:model-value="(text: string) => (part[key] = text)"
        /></label>
        <p v-for="(each, at) in part.settled" :key="at" class="text-sm text-muted">
          {{ t('openItemsPanel.by', { what: each.adds ? t('openItemsPanel.usedUp') : t('openItemsPanel.settled') }) }}
          <b>{{ each.amount }}</b>
          {{
            t('openItemsPanel.ofUpToThatDate', {
              readable: readable(each.table).toLowerCase(),
              map: each.on.map(pair => pair.to).join(', '),
            })
          }}
        </p>
        <h4 class="text-sm text-muted">{{ t('common.onlyWhere') }}</h4>
        <DataFilterLine :level="levels[index]!" :filters="part.filters" bare @change="filters => (part.filters = filters)" />
      </section>
      <p class="text-sm text-muted">
        {{ t('openItemsPanel.documentsDatedLaterDoNot') }}
      </p>
    </template>
    <template #footer>
      <UButton size="sm" :disabled="!ready" @click="save">{{ name ? t('common.change') : t('common.add') }}</UButton>
      <UButton
        v-if="name"
        size="sm"
        variant="ghost"
        color="error"
        icon="i-lucide-trash-2"
        :disabled="used"
        :title="used ? t('common.aLevelReadsItLet') : ''"
        @click="
          () => {
            report.edit(t('common.remove', { name }), definition => removeTable(definition, name))
            data.panel = undefined
          }
        "
        >{{ t('common.takeOut') }}</UButton
      >
    </template>
  </DataSidePanel>
</template>
