<script setup lang="ts">
import equal from 'fast-deep-equal'
import { columnName } from '../../../core/statement/columns'
import type { PackDefinition, PackTie } from '../../../core/pack/definition'
import { figureChoices } from '../../../core/pack/figures'
import type { ReportDefinition } from '../../../core/definition/report'
import type { TieFigure } from '../../../core/definition/tieOuts'

/** Equalities across the reports of a pack. */
const { definitions } = defineProps<{ definitions: ReadonlyMap<string, ReportDefinition> }>()
const pack = defineModel<PackDefinition>({ required: true })
const reportItems = computed(() => pack.value.reports.map(each => ({ value: each.id, label: each.name })))
const choicesOf = (id: string) => {
  const report = pack.value.reports.find(each => each.id === id)
  const definition = report && definitions.get(report.report)
  return definition
    ? figureChoices(definition, column => columnName(column, tell)).map(each => ({
        value: JSON.stringify(each.figure),
        label: each.name,
        suffix: each.of,
      }))
    : []
}
const figureOf = (side: PackTie['left']) => choicesOf(side.report).find(each => equal(JSON.parse(each.value), side.figure))
function setReport(side: PackTie['left'], report: string): void {
  side.report = report
  const [first] = choicesOf(report)
  if (first) side.figure = JSON.parse(first.value) as TieFigure
}
function add(): void {
  const [one, other = one] = pack.value.reports
  if (!one || !other) return
  const side = (report: string) => ({ report, figure: JSON.parse(choicesOf(report)[0]?.value ?? '{}') as TieFigure })
  pack.value.ties.push({ id: `tie${Date.now().toString(36)}`, name: '', left: side(one.id), right: side(other.id), tolerance: '0' })
}
</script>

<template>
  <section v-if="pack.reports.length" :aria-label="t('packTies.tieOuts')">
    <h2 class="mb-2 font-semibold">{{ t('packTies.tieOuts') }}</h2>
    <ul v-if="pack.ties.length" class="mb-2 divide-y divide-default rounded-md border border-default bg-default">
      <li v-for="(tie, at) in pack.ties" :key="tie.id" class="space-y-2 px-3 py-2">
        <div class="flex items-center gap-2">
          <UInput
            v-model="tie.name"
            size="sm"
            class="grow"
            :placeholder="t('packTies.whatMustBeEqual')"
            :aria-label="t('packTies.nameOfTheTieOut')"
          />
          <span class="text-muted">{{ t('packTies.mayDifferBy') }}</span>
          <UInput v-model="tie.tolerance" size="sm" class="w-20 text-right" :aria-label="t('packTies.mayDifferBy')" />
          <UButton
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            :aria-label="t('packTies.takeAway', { name: tie.name })"
            @click="pack.ties.splice(at, 1)"
          />
        </div>
        <div v-for="(side, which) in [tie.left, tie.right]" :key="which" class="flex items-center gap-2">
          <span class="w-14 text-right text-muted">{{ which ? t('packTies.equals') : '' }}</span>
          <USelect
            :model-value="side.report"
            :items="reportItems"
            size="sm"
            class="w-56"
            :aria-label="t('packTies.report')"
            @update:model-value="(value: string) => setReport(side, value)"
          />
          <USelectMenu
            :model-value="figureOf(side)"
            :items="choicesOf(side.report)"
            size="sm"
            class="grow"
            :placeholder="t('packTies.chooseAFigure')"
            :aria-label="t('packTies.figure')"
            @update:model-value="each => (side.figure = JSON.parse(each.value) as TieFigure)"
            ><template #item-trailing="{ item }"
              ><span class="text-xs text-muted">{{ item.suffix }}</span></template
            ><template v-if="figureOf(side)" #default>{{ `${figureOf(side)!.label} · ${figureOf(side)!.suffix}` }}</template></USelectMenu
          >
        </div>
      </li>
    </ul>
    <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-plus" @click="add">{{ t('packTies.addATieOut') }}</UButton>
  </section>
</template>
