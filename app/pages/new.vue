<script setup lang="ts">
import type { Catalog } from '../../core/books/catalog'
import { readable } from '../../core/catalog/types'
import { listOfTable, statementReport } from '../../core/templates/draft'
import { readyNames, type ReadyStatement, readyStatements } from '../../core/templates/statements'

const sources = useSources()

/** A new report begins with the table that its records stand in. */
const route = useRoute()
const catalog = shallowRef<Catalog>()
const chosen = ref('')
const problem = ref('')
const name = ref('')
const making = ref(false)
useHead({ title: 'New report · Estante' })
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
    if (statement) {
      const own = name.value.trim() || readyNames[statement]
      const { id } = await api<{ id: string }>('/api/reports', {
        method: 'POST',
        body: {
          name: own,
          shelf: String(route.query.shelf ?? 'New'),
          definition: statementReport(statement, catalog.value!, sources.current!.id, own),
        },
      })
      await navigateTo(`/reports/${id}/page`)
      return
    }
    const { id } = await api<{ id: string }>('/api/reports', {
      method: 'POST',
      body: {
        name: name.value.trim() || proposed.value,
        shelf: String(route.query.shelf ?? 'New'),
        definition: listOfTable(catalog.value!, chosen.value, sources.current!.id, name.value.trim() || proposed.value),
      },
    })
    await navigateTo(`/reports/${id}/data`)
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    making.value = false
  }
}
</script>

<template>
  <div class="flex h-dvh flex-col" @dragenter="event => (adding ||= holdsFiles(event))">
    <TopBar :crumbs="[{ label: 'Library', to: '/' }, { label: 'New report' }]"
      ><UButton v-if="sources.list.length" size="sm" variant="ghost" icon="i-lucide-file-plus" :disabled="adding" @click="adding = true"
        >Add files</UButton
      ><SourcePick @pick="look($event)" />
      <span v-if="sources.list.length && !adding" class="text-sm text-muted"
        >Which table holds one row per line or document of the report?</span
      ></TopBar
    >
    <Notice v-if="problem" :text="problem" kind="error" />
    <SourcesAddFiles v-if="adding" @close="adding = false" @added="added" />
    <FirstSteps v-else-if="!sources.list.length" @files="adding = true" @server="navigateTo('/sources?add=server')" />
    <div
      v-if="catalog?.ledger && !adding"
      class="bar flex flex-wrap items-center gap-1.5 border-b border-default px-4 py-2 text-sm"
      data-ready
    >
      <span class="pr-2 text-muted">Or begin with a statement from the books:</span
      ><UButton
        v-for="kind in readyStatements"
        :key="kind"
        size="xs"
        variant="outline"
        color="neutral"
        :disabled="making"
        @click="make(kind)"
        >{{ readyNames[kind] }}</UButton
      >
    </div>
    <TableFinder v-if="catalog && !adding" v-model="chosen" :catalog="catalog">
      <template #action
        ><form class="flex shrink-0 items-center gap-2" @submit.prevent="make()">
          <UInput v-model="name" size="sm" class="w-52" :placeholder="proposed" aria-label="Name of the report" /><UButton
            type="submit"
            size="sm"
            :loading="making"
            :disabled="!chosen"
            >Start with this table</UButton
          >
        </form></template
      >
    </TableFinder>
  </div>
</template>
