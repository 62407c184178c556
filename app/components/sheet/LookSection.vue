<script setup lang="ts">
import { merged, putLook, removeLook, setTable } from '../../../core/definition/edits/edits'
import { type LookRule, type RowKind, rowKinds } from '../../../core/definition/blocks/table'
import type { TextStyle } from '../../../core/definition/style'
import { checked, columnValue, isMeasure } from '../../../core/compose/totals'

/** Looks by rule: what stands out and why, with a legend under the table. */
const { report, definition, table, column } = useSheetSelection()
const scope = computed(() => ({ ...scopeOfBlock(definition.value, report.tree!.levels, table.value!.id), row: 'line' as const }))
const put = (look: Omit<LookRule, 'id'> & { id?: string }) => report.edit(t('common.look'), now => putLook(now, table.value!.id, look))
function add(): void {
  const own = column.value && columnValue(table.value!, column.value.id)
  const typed = own && checked(own.formula, scope.value)
  const number = own && typed && isMeasure(typed)
  const first = table.value!.columns.map(each => columnValue(table.value!, each.id)).find(Boolean)
  put({
    when: number ? `${own.formula} < 0` : `${(own ?? first)?.formula ?? 'true'} = empty`,
    columns: column.value ? [column.value.id] : [],
    style: { colour: '#a13c31' },
    meaning: number ? 'negative' : 'missing',
  })
}
const kindsShown = computed(() =>
  rowKinds.filter(
    kind => table.value!.rows.some(row => row.kind === kind) && kind !== 'titles' && kind !== 'forward' && kind !== 'brought',
  ),
)
const toggled = (look: LookRule, kind: RowKind): RowKind[] => {
  const now = look.kinds ?? ['line']
  return now.includes(kind) ? now.filter(each => each !== kind) : [...now, kind]
}
const restyle = (look: LookRule, change: Partial<TextStyle>) => put({ ...look, style: merged(look.style, change) })
</script>

<template>
  <SheetSection
    v-if="table"
    :title="t('lookSection.looksByRule')"
    :note="table.looks?.length ? String(table.looks.length) : t('common.none')"
    :open="!!table.looks?.length"
  >
    <details v-for="look in table.looks ?? []" :key="look.id" class="rounded-md border border-default" :data-look="look.id">
      <summary class="flex cursor-pointer items-center gap-2 px-2 py-1">
        <span
          class="rounded px-1 text-xs"
          :style="{ color: look.style.colour, background: look.style.fill, fontWeight: look.style.bold ? 700 : 400 }"
          >{{ look.mark || t('lookSection.abc') }}</span><span class="truncate">{{ look.meaning || look.when }}</span>
        <UButton
          class="ml-auto"
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('lookSection.takeThisLookOut')"
          @click.prevent="report.edit(t('lookSection.deleteLook'), now => removeLook(now, table!.id, look.id))"
        />
      </summary>
      <div class="space-y-1.5 px-2 pb-2">
        <SheetRuleField :value="look.when" :scope="scope" :label="t('lookSection.where')" @set="$event && put({ ...look, when: $event })" />
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('lookSection.meaning') }}</span
          ><TextField class="w-36" :value="look.meaning" @write="put({ ...look, meaning: $event })"
        /></label>
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('lookSection.on') }}</span
          ><PickField
            class="w-36"
            :value="look.columns[0] ?? ''"
            :aria-label="t('lookSection.onWhichColumn')"
            @pick="put({ ...look, columns: $event ? [$event] : [] })"
          >
            <option value="">{{ t('lookSection.theWholeRow') }}</option>
            <option v-for="each in table.columns" :key="each.id" :value="each.id">{{ each.id }}</option>
          </PickField></label
        >
        <div class="flex flex-wrap gap-x-3 gap-y-0.5">
          <label v-for="kind in kindsShown" :key="kind" class="flex items-center gap-1.5"
            ><input
              type="checkbox"
              class="accent-petrol-700"
              :checked="(look.kinds ?? ['line']).includes(kind)"
              @change="put({ ...look, kinds: toggled(look, kind) })"
            />{{ partWords(kind) }}</label
          >
        </div>
        <div class="flex items-center gap-2">
          <SheetStyleFields :style="look.style" :full="false" @set="restyle(look, $event)" /><PickField
            class="w-14"
            :aria-label="t('lookSection.signBeforeIt')"
            :value="look.mark ?? ''"
            @pick="put({ ...look, mark: $event })"
          >
            <option value="">–</option>
            <option>▲</option>
            <option>▼</option>
            <option>●</option>
            <option>■</option>
            <option>!</option>
          </PickField>
        </div>
      </div>
    </details>
    <div class="flex items-center gap-3">
      <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-plus" @click="add">{{ t('lookSection.addALook') }}</UButton>
      <label v-if="table.looks?.length" class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="accent-petrol-700"
          :checked="!!table.legend"
          @change="
            report.edit(t('lookSection.legend'), now => setTable(now, table!.id, { legend: ($event.target as HTMLInputElement).checked }))
          "
        />
        {{ t('lookSection.legendUnderTheTable') }}</label
      >
    </div>
  </SheetSection>
</template>
