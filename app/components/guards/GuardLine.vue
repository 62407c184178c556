<script setup lang="ts">
import type { GuardCount, GuardsInfo } from '../../../core/api/guards'
import type { Team } from '../../../core/api/people'
import { pathText } from '../../../core/formula/syntax'
import type { Guard } from '../../../core/guard/guards'
import { readable } from '../../../core/catalog/types'

/** One guard: what a team sees of a table, with how many records that are. */
const { table, team, all } = defineProps<{
  table: GuardsInfo['tables'][number]
  team: Team
  /** all guards of the source, as they stand now */
  all: readonly Guard[]
}>()
const guard = defineModel<Guard>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const sources = useSources()
const kinds = computed(() => [
  { value: 'records', label: t('guardLine.recordsByAFormula') },
  ...(table.relations.length ? [{ value: 'with', label: t('guardLine.recordsWithAnother') }] : []),
  { value: 'hidden', label: t('guardLine.hiddenColumns') },
])
function turn(is: string): void {
  const own = { team: guard.value.team, table: guard.value.table }
  if (is === guard.value.is) return
  if (is === 'records') guard.value = { ...own, is, formula: '' }
  else if (is === 'with') guard.value = { ...own, is, key: table.relations[0]!.key }
  else guard.value = { ...own, is: 'hidden', columns: [] }
}
const relations = computed(() =>
  table.relations.map(each => ({
    value: each.key,
    label: t('guardLine.seenWithIts', { readable: readable(each.columns[0]!).toLowerCase(), table: each.table }),
  })),
)
const proposals = computed(() => [
  ...table.columns.map(each => ({ label: each.name, insert: pathText(each.name), hint: each.type, kind: 'field' as const })),
  ...[...Object.keys(team.attributes), 'sign_in'].map(each => ({
    label: `person.${each}`,
    insert: `(person.${each})`,
    hint: t('guardLine.listOfThePerson'),
    kind: 'parameter' as const,
  })),
])
const count = shallowRef<GuardCount>()
let turnOf = 0
async function ask(): Promise<void> {
  const mine = ++turnOf
  if (guard.value.is === 'hidden' || (guard.value.is === 'records' && !guard.value.formula.trim())) {
    count.value = undefined
    return
  }
  try {
    const found = await api<GuardCount>(sources.path('guards/count'), {
      method: 'POST',
      body: {
        guards: all.filter(each => (each.is === 'records' ? each.formula.trim() : each.is === 'with' || each.columns.length)),
        team: team.id,
        table: table.name,
      },
    })
    if (mine === turnOf) count.value = found
  } catch (error) {
    if (mine === turnOf) count.value = { fault: (error as Error).message }
  }
}
watch(() => JSON.stringify(all), useDebounceFn(ask, 300))
void ask()
const words = computed(() => {
  const { seen, all: every } = count.value ?? {}
  return seen === undefined || every === undefined
    ? ''
    : t('guardLine.seesOf', { seen: grouped(seen), every: grouped(every), readable: readable(table.name).toLowerCase() })
})
const fault = computed(() => {
  const sentence = count.value?.fault
  return sentence ? { from: 0, to: guard.value.is === 'records' ? guard.value.formula.length : 0, message: sentence } : undefined
})
</script>

<template>
  <div class="flex items-start gap-2 py-1 text-sm" :data-guard="`${table.name} ${guard.is}`">
    <USelect
      :model-value="guard.is"
      :items="kinds"
      size="sm"
      class="w-60 shrink-0"
      :aria-label="t('guardLine.whatSeesOf', { name: team.name, name2: table.name })"
      @update:model-value="turn"
    />
    <div class="min-w-0 grow">
      <CodeField
        v-if="guard.is === 'records'"
        :model-value="guard.formula"
        language="formula"
        :label="t('guardLine.guardOf', { name: table.name })"
        :lines="1"
        hint="branch_code in (person.branches)"
        :proposals="proposals"
        :fault="fault"
        @update:model-value="(formula: string) => (guard = { ...guard, formula } as Guard)"
      />
      <USelect
        v-else-if="guard.is === 'with'"
        :model-value="guard.key"
        :items="relations"
        size="sm"
        class="w-full"
        :aria-label="t('guardLine.withWhichRecordGoes', { name: table.name })"
        @update:model-value="(key: string) => (guard = { ...guard, key } as Guard)"
      />
      <USelectMenu
        v-else
        :model-value="guard.columns"
        :items="table.columns.map(each => each.name)"
        multiple
        size="sm"
        class="w-full"
        :placeholder="t('guardLine.noColumnYet')"
        :aria-label="t('guardLine.hiddenColumnsOf', { name: table.name })"
        @update:model-value="(columns: string[]) => (guard = { ...guard, columns } as Guard)"
      />
      <p v-if="guard.is !== 'records' && fault" class="mt-1 text-error" role="alert">{{ tell(fault.message) }}</p>
    </div>
    <p class="w-64 shrink-0 py-1 text-muted" role="status">{{ words }}</p>
    <UButton
      size="xs"
      variant="ghost"
      color="neutral"
      icon="i-lucide-x"
      :aria-label="t('guardLine.takeThisGuardOfAway', { name: table.name })"
      @click="emit('remove')"
    />
  </div>
</template>
