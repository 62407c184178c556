<script setup lang="ts">
import { VueDraggable } from 'vue-draggable-plus'
import { checked, columnTotals, columnValue, groupFields, isMeasure, totalText } from '../../../core/compose/totals'
import { addGroup, moveGroup, removeGroup, setGroup } from '../../../core/definition/edits/edits'
import { dateSteps, type GroupDefinition } from '../../../core/definition/blocks/table'

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
  report.edit('Add group', now =>
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
  report.edit('Group', now => setGroup(now, table.value!.id, group.id, change))
const typeOf = (group: GroupDefinition) => checked(group.by, scope.value)?.type
/** Totals that groups can be ordered by: sums of the columns that can be added up, and the count. */
const measures = computed(() => [
  ...table.value!.columns.flatMap(column => {
    const own = columnValue(table.value!, column.id)
    const typed = own && checked(own.formula, scope.value)
    return own && typed && isMeasure(typed)
      ? [{ label: `sum of ${column.id.replaceAll('_', ' ')}`, formula: totalText({ formula: own.formula }, { kind: 'sum' }).slice(3, -3) }]
      : []
  }),
  { label: 'how many there are', formula: `count(${table.value!.level})` },
])
const orders = computed(() => [
  { value: 'name', label: 'name' },
  { value: 'value', label: 'value' },
  ...measures.value.map(each => ({ value: `total ${each.formula}`, label: each.label })),
  { value: 'given', label: 'a given order' },
])
function order(group: GroupDefinition, to: string): void {
  set(group, {
    order: to.startsWith('total ') ? { by: 'total', total: to.slice(6), descending: true } : { ...group.order, by: to as 'name' },
  })
}
/** Dragging gives a new order: the group that has moved goes to its new place. */
const list = computed({
  get: () => table.value!.groups,
  set: next => {
    const now = table.value!.groups.map(group => group.id)
    const after = next.map(group => group.id)
    const moved = after.find(id => after.filter(each => each !== id).join() === now.filter(each => each !== id).join())
    if (moved && after.join() !== now.join())
      report.edit('Order of groups', definition => moveGroup(definition, table.value!.id, moved, after.indexOf(moved)))
  },
})
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
  <SheetSection v-if="table" title="Groups" :note="table.groups.length ? '' : 'none'">
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
          <span class="ml-auto flex"
            ><UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-arrow-up"
              aria-label="Outwards"
              :disabled="index === 0"
              @click.prevent="report.edit('Order of groups', now => moveGroup(now, table!.id, group.id, index - 1))" /><UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-x"
              :aria-label="`Take out the group ${group.id}`"
              @click.prevent="report.edit('Delete group', now => removeGroup(now, table!.id, group.id))"
          /></span>
        </summary>
        <div class="space-y-1.5 px-2 pb-2">
          <SheetRuleField :value="group.by" :scope="scope" label="Group by" :test="false" @set="$event && set(group, { by: $event })" />
          <label v-if="['date', 'moment'].includes(typeOf(group) ?? '')" class="flex items-center justify-between gap-2"
            ><span class="text-muted">By</span
            ><PickField
              class="w-36"
              aria-label="Stretch of the date"
              :value="group.step ?? 'day'"
              @pick="set(group, { step: $event as 'day' })"
            >
              <option v-for="step in dateSteps" :key="step" :value="step">{{ step === 'period' ? 'fiscal period' : step }}</option>
            </PickField></label
          >
          <label v-if="typeOf(group) === 'number'" class="flex items-center justify-between gap-2"
            ><span class="text-muted">Ranges up to</span
            ><TextField
              class="w-36"
              placeholder="0, 100, 1000"
              aria-label="Upper edges of the ranges"
              :value="(group.edges ?? []).join(', ')"
              @write="set(group, { edges: edgesOf($event) })"
          /></label>
          <div class="flex items-center justify-between gap-2">
            <span class="text-muted">Order</span
            ><span class="flex gap-1"
              ><PickField
                class="w-36"
                aria-label="Order of the groups"
                :value="group.order.by === 'total' ? `total ${group.order.total}` : group.order.by"
                @pick="order(group, $event)"
              >
                <option v-for="each in orders" :key="each.value" :value="each.value">{{ each.label }}</option>
              </PickField>
              <UButton
                size="xs"
                variant="outline"
                color="neutral"
                :icon="group.order.descending ? 'i-lucide-arrow-down-wide-narrow' : 'i-lucide-arrow-up-narrow-wide'"
                :aria-label="group.order.descending ? 'Descending' : 'Ascending'"
                @click="set(group, { order: { ...group.order, descending: !group.order.descending } })"
            /></span>
          </div>
          <label v-if="group.order.by === 'given'" class="block"
            ><span class="text-muted">Names, one a line</span
            ><TextField
              rows="3"
              class="w-full"
              :value="(group.order.given ?? []).join('\n')"
              @write="
                set(group, {
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
            <span class="text-muted">Only the</span
            ><span class="flex gap-1">
              <PickField
                class="w-24"
                aria-label="Only the first or last"
                :value="group.top ? (group.top.last ? 'last' : 'first') : ''"
                @pick="
                  set(group, {
                    top: $event
                      ? { count: 10, total: measures[0]!.formula, others: 'All others', ...group.top, last: $event === 'last' }
                      : undefined,
                  })
                "
              >
                <option value="">all</option>
                <option value="first">top</option>
                <option value="last">bottom</option>
              </PickField>
              <NumberField
                v-if="group.top"
                whole
                :least="1"
                class="w-14"
                aria-label="How many"
                :value="group.top.count"
                @write="set(group, { top: { ...group.top!, count: $event } })"
              />
            </span>
          </div>
          <template v-if="group.top">
            <label class="flex items-center justify-between gap-2"
              ><span class="text-muted">by</span
              ><PickField
                class="w-36"
                aria-label="Top by"
                :value="group.top.total"
                @pick="set(group, { top: { ...group.top!, total: $event } })"
              >
                <option v-for="each in measures" :key="each.formula" :value="each.formula">{{ each.label }}</option>
              </PickField></label
            >
            <label class="flex items-center justify-between gap-2"
              ><span class="text-muted">The rest</span
              ><TextField
                class="w-36"
                placeholder="left out"
                aria-label="Name of the rest"
                :value="group.top.others ?? ''"
                @write="set(group, { top: { ...group.top!, others: $event || undefined } as never })"
            /></label>
          </template>
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">Without a value</span
            ><TextField
              class="w-36"
              placeholder="(none)"
              aria-label="Name of the group without a value"
              :value="group.none ?? ''"
              @write="set(group, { none: $event || undefined })"
          /></label>
          <SheetRuleField
            :value="group.having ?? ''"
            :scope="{ ...scope, row: index }"
            label="Only groups where"
            hint="sum(amount) > 1000"
            @set="set(group, { having: $event })"
          />
          <label class="flex items-center gap-2"
            ><input type="checkbox" class="accent-petrol-700" :checked="!!group.newPage" @change="set(group, { newPage: on($event) })" />
            Each on a new page</label
          >
          <label class="flex items-center gap-2"
            ><input
              type="checkbox"
              class="accent-petrol-700"
              :checked="!!group.keepTogether"
              @change="set(group, { keepTogether: on($event) })"
            />
            Keep together on a page</label
          >
          <label class="flex items-center gap-2"
            ><input
              type="checkbox"
              class="accent-petrol-700"
              :checked="!!group.repeatStart"
              @change="set(group, { repeatStart: on($event) })"
            />
            Repeat its start where it goes on</label
          >
        </div>
      </details>
    </VueDraggable>
    <PickField class="w-full text-muted" aria-label="Group by a field" @pick="add">
      <option value="">+ Group by …</option>
      <option v-for="each in fields" :key="each.formula" :value="each.formula">
        {{ fieldTitle(each.field)
        }}{{ each.field.level === level ? '' : ` (${report.tree!.levels[each.field.level]!.caption.toLowerCase()})` }}
      </option>
    </PickField>
  </SheetSection>
</template>
