<script setup lang="ts">
import { checked } from '../../../core/compose/totals'
import { dateSteps, type GroupDefinition } from '../../../core/definition/blocks/table'
import type { Scope } from '../../../core/formula/typed'

/** By what records are grouped, in which order, and which of the groups stand: the same in a table and on an axis of a crosstab. */
const props = defineProps<{
  group: GroupDefinition
  scope: Scope
  /** totals that groups can be ordered and chosen by */
  measures: { label: string; formula: string }[]
  /** place of the group among those around it */
  depth: number
}>()
const emit = defineEmits<{ set: [change: Partial<GroupDefinition>] }>()
const set = (change: Partial<GroupDefinition>) => emit('set', change)
const type = computed(() => checked(props.group.by, props.scope)?.type)
const orders = computed(() => [
  { value: 'name', label: t('groupFields.name') },
  { value: 'value', label: t('groupFields.value') },
  ...props.measures.map(each => ({ value: `total ${each.formula}`, label: each.label })),
  { value: 'given', label: t('groupFields.aGivenOrder') },
])
function order(to: string): void {
  set({
    order: to.startsWith('total ') ? { by: 'total', total: to.slice(6), descending: true } : { ...props.group.order, by: to as 'name' },
  })
}
/** Upper edges as somebody writes them, one after another. */
function edgesOf(text: string): number[] | undefined {
  const edges = text
    .split(/[,;\s]+/)
    .filter(Boolean)
    .map(Number)
    .filter(Number.isFinite)
  return edges.length ? edges : undefined
}
</script>

<template>
  <SheetRuleField :value="group.by" :scope="scope" :label="t('groupFields.groupBy')" :test="false" @set="$event && set({ by: $event })" />
  <label v-if="['date', 'moment'].includes(type ?? '')" class="flex items-center justify-between gap-2"
    ><span class="text-muted">{{ t('groupFields.by') }}</span
    ><PickField
      class="w-36"
      :aria-label="t('groupFields.stretchOfTheDate')"
      :value="group.step ?? 'day'"
      @pick="set({ step: $event as 'day' })"
    >
      <option v-for="step in dateSteps" :key="step" :value="step">{{ step === 'period' ? t('groupFields.fiscalPeriod') : step }}</option>
    </PickField></label
  >
  <label v-if="type === 'number'" class="flex items-center justify-between gap-2"
    ><span class="text-muted">{{ t('groupFields.rangesUpTo') }}</span
    ><TextField
      class="w-36"
      placeholder="0, 100, 1000"
      :aria-label="t('groupFields.upperEdgesOfTheRanges')"
      :value="(group.edges ?? []).join(', ')"
      @write="set({ edges: edgesOf($event) })"
  /></label>
  <div class="flex items-center justify-between gap-2">
    <span class="text-muted">{{ t('common.order') }}</span><span class="flex gap-1"
      ><PickField
        class="w-36"
        :aria-label="t('groupFields.orderOfTheGroups')"
        :value="group.order.by === 'total' ? `total ${group.order.total}` : group.order.by"
        @pick="order($event)"
      >
        <option v-for="each in orders" :key="each.value" :value="each.value">{{ each.label }}</option>
      </PickField>
      <UButton
        size="xs"
        variant="outline"
        color="neutral"
        :icon="group.order.descending ? 'i-lucide-arrow-down-wide-narrow' : 'i-lucide-arrow-up-narrow-wide'"
        :aria-label="group.order.descending ? t('groupFields.descending') : t('groupFields.ascending')"
        @click="set({ order: { ...group.order, descending: !group.order.descending } })"
    /></span>
  </div>
  <label v-if="group.order.by === 'given'" class="block"
    ><span class="text-muted">{{ t('groupFields.namesOneALine') }}</span
    ><TextField
      rows="3"
      class="w-full"
      :value="(group.order.given ?? []).join('\n')"
      @write="
        set({
          order: {
            ...group.order,
            given: $event
              .split('\n')
              .map(each => each.trim())
              .filter(Boolean),
          },
        })
      "
    />
  </label>
  <div class="flex items-center justify-between gap-2">
    <span class="text-muted">{{ t('groupFields.onlyThe') }}</span><span class="flex gap-1">
      <PickField
        class="w-24"
        :aria-label="t('groupFields.onlyTheFirstOrLast')"
        :value="group.top ? (group.top.last ? 'last' : 'first') : ''"
        @pick="
          set({
            top: $event
              ? { count: 10, total: measures[0]!.formula, others: t('groupFields.allOthers'), ...group.top, last: $event === 'last' }
              : undefined,
          })
        "
      >
        <option value="">{{ t('common.all') }}</option>
        <option value="first">{{ t('groupFields.top') }}</option>
        <option value="last">{{ t('groupFields.bottom') }}</option>
      </PickField>
      <NumberField
        v-if="group.top"
        whole
        :least="1"
        class="w-14"
        :aria-label="t('groupFields.howMany')"
        :value="group.top.count"
        @write="set({ top: { ...group.top!, count: $event } })"
      />
    </span>
  </div>
  <template v-if="group.top">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('groupFields.by2') }}</span
      ><PickField
        class="w-36"
        :aria-label="t('groupFields.topBy')"
        :value="group.top.total"
        @pick="set({ top: { ...group.top!, total: $event } })"
      >
        <option v-for="each in measures" :key="each.formula" :value="each.formula">{{ each.label }}</option>
      </PickField></label
    >
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('groupFields.theRest') }}</span
      ><TextField
        class="w-36"
        :placeholder="t('groupFields.leftOut')"
        :aria-label="t('groupFields.nameOfTheRest')"
        :value="group.top.others ?? ''"
        @write="set({ top: { ...group.top!, others: $event || undefined } as never })"
    /></label>
  </template>
  <label class="flex items-center justify-between gap-2"
    ><span class="text-muted">{{ t('groupFields.withoutAValue') }}</span
    ><TextField
      class="w-36"
      :placeholder="t('groupFields.none')"
      :aria-label="t('groupFields.nameOfTheGroupWithout')"
      :value="group.none ?? ''"
      @write="set({ none: $event || undefined })"
  /></label>
  <SheetRuleField
    :value="group.having ?? ''"
    :scope="{ ...scope, row: depth }"
    :label="t('groupFields.onlyGroupsWhere')"
    hint="sum(amount) > 1000"
    @set="set({ having: $event })"
  />
</template>
