<script setup lang="ts">
import type { Catalog } from '../../core/books/catalog'
import { readable } from '../../core/catalog/types'
import { listOfTable, statementReport } from '../../core/templates/draft'
import { type DraftKind, draftKinds } from '../../core/templates/drafts/layout'
import { titleOf } from '../../core/templates/drafts/report'
import { readyNames, type ReadyStatement, readyStatements } from '../../core/templates/statements'

const sources = useSources()

/** A new report begins with the table that its records stand in. */
const route = useRoute()
const catalog = shallowRef<Catalog>()
const chosen = ref('')
const problem = ref('')
const name = ref('')
const making = ref(false)
useHead({ title: t('newPage.newReportEstante') })
async function load(): Promise<void> {
  if (!sources.list.length) return
  try {
    const { problem: _, ...found } = await api<Catalog & { problem: string }>(sources.path('catalog'))
    catalog.value = found
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(() => void load())
/** Puts a report on the shelf that was asked for, and goes to a stage of it. */
async function create(name: string, definition: object, stage: 'page' | 'data'): Promise<void> {
  const { id } = await api<{ id: string }>('/api/reports', {
    method: 'POST',
    body: { name, shelf: String(route.query.shelf ?? 'New'), definition },
  })
  await navigateTo(`/reports/${id}/${stage}`)
}
const drafting = ref(false)
/** A whole page of the table with what belongs to it, as it suits the table or as it was asked for. */
async function draft(kind?: DraftKind): Promise<void> {
  drafting.value = true
  const title = name.value.trim() || titleOf(chosen.value)
  try {
    const made = await api<{ definition: object }>('/api/draft', {
      method: 'POST',
      body: { source: sources.current!.id, table: chosen.value, title, ...(kind ? { kind } : {}) },
    })
    await create(title, made.definition, 'page')
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    drafting.value = false
  }
}
const draftMenu = computed(() =>
  draftKinds.map(kind => ({ label: draftWords(kind).label, icon: draftWords(kind).icon, onSelect: () => void draft(kind) })),
)
/** The report is to be of another source. */
function look(id: string): void {
  sources.use(id)
  ;[catalog.value, chosen.value] = [undefined, '']
  void load()
}
/** Files become a source of their own, and the report begins on it. */
const adding = ref(false)
async function added({ id }: { id: string }): Promise<void> {
  adding.value = false
  await sources.load()
  look(id)
}
const proposed = computed(() => (chosen.value ? readable(chosen.value) : ''))

async function make(statement?: ReadyStatement): Promise<void> {
  making.value = true
  try {
    const own = name.value.trim() || (statement ? readyNames[statement] : proposed.value)
    const { id: source } = sources.current!
    if (statement) await create(own, statementReport(statement, catalog.value!, source, own), 'page')
    else await create(own, listOfTable(catalog.value!, chosen.value, source, own), 'data')
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    making.value = false
  }
}
</script>

<template>
  <div class="flex h-dvh flex-col" @dragenter="event => (adding ||= holdsFiles(event))">
    <TopBar :crumbs="[{ label: t('common.library'), to: '/' }, { label: t('common.newReport') }]"
      ><UButton v-if="sources.list.length" size="sm" variant="ghost" icon="i-lucide-file-plus" :disabled="adding" @click="adding = true">{{
        t('common.addFiles')
      }}</UButton
      ><SourcePick @pick="look($event)" />
      <span v-if="sources.list.length && !adding" class="text-sm text-muted">{{ t('newPage.whichTableHoldsOneRow') }}</span></TopBar
    >
    <Notice v-if="problem" :text="problem" kind="error" />
    <SourcesAddFiles v-if="adding" @close="adding = false" @added="added" />
    <FirstSteps v-else-if="!sources.list.length" @files="adding = true" @server="navigateTo('/sources?add=server')" />
    <div
      v-if="catalog?.ledger && !adding"
      class="bar flex flex-wrap items-center gap-1.5 border-b border-default px-4 py-2 text-sm"
      data-ready
    >
      <span class="pr-2 text-muted">{{ t('newPage.orBeginWithAStatement') }}</span><UButton
        v-for="kind in readyStatements"
        :key="kind"
        size="xs"
        variant="outline"
        color="neutral"
        :disabled="making"
        @click="make(kind)"
        >{{ tell(readyNames[kind]) }}</UButton
      >
    </div>
    <TableFinder v-if="catalog && !adding" v-model="chosen" :catalog="catalog">
      <template #action
        ><form class="flex shrink-0 items-center gap-2" @submit.prevent="make()">
          <UInput v-model="name" size="sm" class="w-52" :placeholder="proposed" :aria-label="t('newPage.nameOfTheReport')" /><UButton
            type="submit"
            size="sm"
            variant="ghost"
            color="neutral"
            :loading="making"
            :disabled="!chosen || drafting"
            :title="t('newPage.beginsWithItsRowsWhat')"
            >{{ t('newPage.startWithThisTable') }}</UButton
          >
          <UFieldGroup>
            <UButton
              size="sm"
              icon="i-lucide-wand-sparkles"
              :loading="drafting"
              :disabled="!chosen || making"
              :title="t('newPage.joinsWhatBelongsToIt')"
              @click="draft()"
              >{{ t('newPage.draftThePage') }}</UButton><UDropdownMenu :items="draftMenu" :content="{ align: 'end' }"
              ><UButton
                size="sm"
                icon="i-lucide-chevron-down"
                :disabled="!chosen || making || drafting"
                :aria-label="t('newPage.chooseWhatIsDrafted')" /></UDropdownMenu
          ></UFieldGroup></form
      ></template>
    </TableFinder>
  </div>
</template>
