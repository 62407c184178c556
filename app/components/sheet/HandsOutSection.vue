<script setup lang="ts">
import { freeId } from '../../../core/definition/edits/edits'
import { setHandsOut } from '../../../core/definition/edits/nested'
import type { HandedTotal } from '../../../core/definition/handsOut'

/** Totals of this report that others can print and add up where it is nested in them. */
const report = useReport()
const totals = computed(() => report.definition!.handsOut ?? [])
const scope = computed(() => ({ levels: report.tree!.levels, level: 0, parameters: report.model!.parameterTypes }))
const edit = (change: (totals: readonly HandedTotal[]) => HandedTotal[]) =>
  report.edit(t('handsOutSection.totalsHandedOut'), now => setHandsOut(now, change(now.handsOut ?? [])))
const set = (name: string, to: Partial<HandedTotal>) => edit(all => all.map(each => (each.name === name ? { ...each, ...to } : each)))
function rename(name: string, wanted: string): void {
  const word = wanted
    .trim()
    .replace(/[^\p{L}\p{N}_]+/gu, '_')
    .replace(/^(?=\d)/, '_')
  if (word && !totals.value.some(each => each.name === word)) set(name, { name: word })
}
function add(): void {
  const [root] = report.tree!.levels
  const fields = [...root!.fields.values()]
  const amount = fields.find(field => field.type === 'number' && field.role === 'measure' && !field.record && !field.nested)
  const name = freeId(
    amount?.column.name ?? 'records',
    totals.value.map(each => each.name),
    true,
  )
  const formula = amount ? `sum(${fieldFormula(report.tree!.levels, 0, 0, amount.path)})` : `count(${root!.name})`
  edit(all => [...all, { name, formula }])
}
</script>

<template>
  <SheetSection
    :title="t('handsOutSection.totalsHandedOut')"
    :note="totals.length ? String(totals.length) : t('common.none')"
    :open="totals.length > 0"
  >
    <p class="text-xs text-muted">{{ t('handsOutSection.aReportInWhichThis') }}</p>
    <div v-for="each in totals" :key="each.name" class="space-y-1 rounded-md border border-default px-2 py-1" :data-handed="each.name">
      <div class="flex items-center gap-1">
        <TextField
          mono
          class="min-w-0 grow"
          :aria-label="t('handsOutSection.nameOf', { name: each.name })"
          :value="each.name"
          @write="rename(each.name, $event)"
        />
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('handsOutSection.takeOut', { name: each.name })"
          @click="edit(all => all.filter(own => own.name !== each.name))"
        />
      </div>
      <SheetRuleField
        :value="each.formula"
        :scope="scope"
        :test="false"
        :label="t('common.formula')"
        @set="$event && set(each.name, { formula: $event })"
      />
    </div>
    <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-plus" @click="add">{{
      t('handsOutSection.handOutATotal')
    }}</UButton>
  </SheetSection>
</template>
