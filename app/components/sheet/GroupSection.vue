<script setup lang="ts">
import { VueDraggable } from 'vue-draggable-plus'
import { checked, columnTotals, columnValue, groupFields, isMeasure, totalText } from '../../../core/compose/totals'
import { addGroup, moveGroup, removeGroup, setGroup } from '../../../core/definition/edits/edits'
import type { GroupDefinition } from '../../../core/definition/blocks/table'

/** Groups of the selected table: added in one action, dragged into order, each with its own settings. */
const { report, definition, table } = useSheetSelection()
const on = (event: Event) => (event.target as HTMLInputElement).checked
const level = computed(() => levelOfBlock(definition.value, report.tree!.levels, table.value!.id))
const scope = computed(() => ({ ...scopeOfBlock(definition.value, report.tree!.levels, table.value!.id), row: 'line' as const }))
const fields = computed(() =>
  groupFields(report.tree!.levels, level.value).map(field => ({
    field,
    formula: fieldFormula(report.tree!.levels, level.value, field.level, field.path),
  })),
)
const open = ref('')
function add(picked: string): void {
  const found = fields.value.find(each => each.formula === picked)
  if (!found) return
  const { field, formula } = found
  const date = field.type === 'date' || field.type === 'moment'
  const before = table.value!.groups.map(group => group.id)
  report.edit(t('common.addGroup'), now =>
    addGroup(
      now,
      table.value!.id,
      {
        by: formula,
        ...(date ? { step: 'month' as const } : {}),
        order: { by: date ? 'value' : 'name', descending: false },
        repeatStart: true,
      },
      columnTotals(table.value!, scope.value),
    ),
  )
  open.value = table.value!.groups.find(group => !before.includes(group.id))?.id ?? ''
}
const set = (group: GroupDefinition, change: Partial<GroupDefinition>) =>
  report.edit(t('common.group'), now => setGroup(now, table.value!.id, group.id, change))
/** Totals that groups can be ordered by: sums of the columns that can be added up, and the count. */
const measures = computed(() => [
  ...table.value!.columns.flatMap(column => {
    const own = columnValue(table.value!, column.id)
    const typed = own && checked(own.formula, scope.value)
    return own && typed && isMeasure(typed)
      ? [
          {
            label: t('groupSection.sumOf', { id: column.id.replaceAll('_', ' ') }),
            formula: totalText({ formula: own.formula }, { kind: 'sum' }).slice(3, -3),
          },
        ]
      : []
  }),
  { label: t('groupSection.howManyThereAre'), formula: `count(${table.value!.level})` },
])
/** Dragging gives a new order: the group that has moved goes to its new place. */
const list = computed({
  get: () => table.value!.groups,
  set: next => {
    const now = table.value!.groups.map(group => group.id)
    const after = next.map(group => group.id)
    const moved = after.find(id => after.filter(each => each !== id).join() === now.filter(each => each !== id).join())
    if (moved && after.join() !== now.join())
      report.edit(t('groupSection.orderOfGroups'), definition => moveGroup(definition, table.value!.id, moved, after.indexOf(moved)))
  },
})
</script>

<template>
  <SheetSection v-if="table" :title="t('groupSection.groups')" :note="table.groups.length ? '' : t('common.none')">
    <VueDraggable v-model="list" handle="[data-grip]" :animation="120" class="space-y-1">
      <details
        v-for="(group, index) in table.groups"
        :key="group.id"
        class="rounded-md border border-default"
        :open="open === group.id"
        :data-group="group.id"
      >
        <summary class="flex cursor-pointer items-center gap-2 px-2 py-1">
          <UIcon name="i-lucide-grip-vertical" class="size-4 cursor-grab text-dimmed" data-grip /><span class="truncate font-medium">{{
            group.id.replaceAll('_', ' ')
          }}</span>
        </summary>
        <div class="space-y-1.5 px-2 pb-2">
          <span class="flex justify-end"
            ><UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-arrow-up"
              :aria-label="t('groupSection.outwards')"
              :disabled="index === 0"
              @click="report.edit(t('groupSection.orderOfGroups'), now => moveGroup(now, table!.id, group.id, index - 1))" /><UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-x"
              :aria-label="t('groupSection.takeOutTheGroup', { id: group.id })"
              @click="report.edit(t('groupSection.deleteGroup'), now => removeGroup(now, table!.id, group.id))"
          /></span>
          <SheetGroupFields :group="group" :scope="scope" :measures="measures" :depth="index" @set="set(group, $event)" />
          <label class="flex items-center gap-2"
            ><input type="checkbox" class="accent-petrol-700" :checked="!!group.newPage" @change="set(group, { newPage: on($event) })" />
            {{ t('groupSection.eachOnANewPage') }}</label
          >
          <label class="flex items-center gap-2"
            ><input
              type="checkbox"
              class="accent-petrol-700"
              :checked="!!group.keepTogether"
              @change="set(group, { keepTogether: on($event) })"
            />
            {{ t('groupSection.keepTogetherOnAPage') }}</label
          >
          <label class="flex items-center gap-2"
            ><input
              type="checkbox"
              class="accent-petrol-700"
              :checked="!!group.repeatStart"
              @change="set(group, { repeatStart: on($event) })"
            />
            {{ t('groupSection.repeatItsStartWhereIt') }}</label
          >
        </div>
      </details>
    </VueDraggable>
    <PickField class="w-full text-muted" :aria-label="t('groupSection.groupByAField')" @pick="add">
      <option value="">{{ t('groupSection.groupBy') }}</option>
      <option v-for="each in fields" :key="each.formula" :value="each.formula">
        {{ fieldTitle(each.field)
        }}{{ each.field.level === level ? '' : ` (${report.tree!.levels[each.field.level]!.caption.toLowerCase()})` }}
      </option>
    </PickField>
  </SheetSection>
</template>
