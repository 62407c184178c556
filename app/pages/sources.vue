<script setup lang="ts">
import equal from 'fast-deep-equal'
import type { SourceConnection } from '../../core/api/intake'
import type { SourceSettings } from '../../core/books/settings'
import type { Catalog } from '../../core/books/catalog'
import { readable } from '../../core/catalog/types'
import type { Use } from '../../core/compose/uses'

const sources = useSources()

/** What a source holds, what is kept with it, and who reads it. */
const catalog = shallowRef<Catalog>()
const problem = ref('')
const away = ref('')
const chosen = ref('')
const column = ref('')
const settings = ref<SourceSettings>()
/** the panel that says where the books are */
const books = ref(false)
/** what becomes a source is being looked at */
const asked = useRoute().query.add
const adding = ref<'files' | 'server' | undefined>(asked === 'files' || asked === 'server' ? asked : undefined)
/** the source at hand is being changed, or files are brought for it */
const editing = shallowRef<{ id: string; connection: SourceConnection }>()
const bringing = ref(false)
const busy = computed(() => !!adding.value || !!editing.value)
async function edit(files: boolean): Promise<void> {
  const { id } = sources.current!
  problem.value = ''
  try {
    editing.value = { id, connection: await api<SourceConnection>(sources.path('connection')) }
    bringing.value = files
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const into = computed(() => {
  if (!bringing.value || editing.value?.connection.kind !== 'files' || !catalog.value) return undefined
  const { id, connection } = editing.value
  return { id, name: connection.name, tables: catalog.value.tables, origins: connection.tables }
})
const uses = ref<{ id: string; name: string; uses: Use[] }[]>()
useHead({ title: t('sourcesPage.sourcesEstante') })

async function load(again = false): Promise<void> {
  if (!sources.list.length) return
  try {
    const [{ problem: sentence, ...found }, kept] = await Promise.all([
      api<Catalog & { problem: string }>(sources.path(`catalog${again ? '?again=1' : ''}`)),
      sources.settings(),
    ])
    catalog.value = found
    away.value = sentence
    settings.value = kept.value
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(() => void load())
/** Another source comes into view. */
function look(id: string): void {
  sources.use(id)
  ;[catalog.value, chosen.value, column.value, books.value] = [undefined, '', '', false]
  void load()
}
/** Files that are dragged over the page can be dropped. */
function carried(event: DragEvent): void {
  if (holdsFiles(event) && !editing.value) adding.value = 'files'
}
/** The source at hand is to go, with its tables. */
const leaving = ref(false)
const leavingWords = computed(() =>
  sources.current?.kind === 'server'
    ? t('sourcesPage.isNotConnectedAnyMore', { name: sources.current.name })
    : t('sourcesPage.goesWithAllOfIts', {
        name: sources.current?.name,
        what: sources.current?.kind === 'copy' ? t('sourcesPage.theDatabaseItWasCopied') : t('sourcesPage.theFilesThemselvesStayWhere'),
      }),
)
async function putAway(): Promise<void> {
  leaving.value = false
  try {
    await api(`/api/sources/${encodeURIComponent(sources.current!.id)}`, { method: 'DELETE' })
    await sources.load()
    look('')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
async function added({ id }: { id: string }): Promise<void> {
  adding.value = editing.value = undefined
  await sources.load()
  look(id)
}
watch(
  [chosen, column],
  async ([table, name]) => {
    uses.value = undefined
    if (!table) return
    try {
      const found = await api<{ id: string; name: string; uses: Use[] }[]>(
        sources.path(`uses?${new URLSearchParams({ table, ...(name ? { column: name } : {}) })}`),
      )
      if (chosen.value === table && column.value === name) uses.value = found
    } catch (error) {
      problem.value = (error as Error).message
    }
  },
  { immediate: true },
)

const kept = computed(() => ({
  relations: settings.value?.relations.filter(each => each.from.table === chosen.value || each.to.table === chosen.value) ?? [],
  calculated: settings.value?.calculated.filter(each => each.table === chosen.value) ?? [],
  columns: Object.entries(settings.value?.columns ?? {}).filter(([name]) => name.startsWith(`${chosen.value}.`)),
}))
async function forget(change: (settings: SourceSettings) => SourceSettings): Promise<void> {
  try {
    await sources.changeSettings(change)
    await load(true)
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const anything = computed(() => kept.value.relations.length + kept.value.calculated.length + kept.value.columns.length > 0)
</script>

<template>
  <div class="flex h-dvh flex-col" @dragenter="carried">
    <TopBar home
      ><UButton size="sm" icon="i-lucide-file-plus" :disabled="busy" @click="adding = 'files'">{{ t('common.addFiles') }}</UButton
      ><UButton size="sm" variant="outline" color="neutral" icon="i-lucide-database" :disabled="busy" @click="adding = 'server'">{{
        t('sourcesPage.connectAServer')
      }}</UButton></TopBar
    >
    <SourcesSourceBar
      v-if="!busy && sources.list.length"
      :catalog="catalog"
      :books="books"
      @pick="look($event)"
      @books="books = !books"
      @again="load(true)"
      @edit="edit(false)"
      @files="edit(true)"
      @leave="leaving = true"
      @problem="text => (problem = text)"
      @renewed="load(true)"
    />
    <Notice v-if="problem" :text="problem" kind="error"
      ><UButton size="xs" variant="outline" color="neutral" @click="load()">{{ t('common.tryAgain') }}</UButton></Notice
    >
    <Notice v-if="leaving" :text="leavingWords"
      ><UButton size="xs" color="error" @click="putAway">{{ t('sourcesPage.putItAway') }}</UButton
      ><UButton size="xs" variant="outline" color="neutral" @click="leaving = false">{{ t('common.keepIt') }}</UButton></Notice
    >
    <Notice v-if="away" :text="t('sourcesPage.theTablesAreShownAs', { away })" />
    <SourcesAddFiles v-if="adding === 'files'" @close="adding = undefined" @added="added" />
    <SourcesConnectServer v-if="adding === 'server'" @close="adding = undefined" @added="added" />
    <SourcesAddFiles v-if="into" :into="into" @close="editing = undefined" @added="added" />
    <SourcesEditFiles
      v-else-if="editing?.connection.kind === 'files'"
      :id="editing.id"
      :connection="editing.connection"
      @close="editing = undefined"
      @changed="added(editing)"
    />
    <SourcesConnectServer
      v-else-if="editing"
      :kept="{ id: editing.id, connection: editing.connection }"
      @close="editing = undefined"
      @added="added"
    />
    <FirstSteps v-if="!busy && !sources.list.length" @files="adding = 'files'" @server="adding = 'server'" />
    <SourceBooks
      v-if="books && catalog && !busy"
      :catalog="catalog"
      @close="books = false"
      @problem="text => (problem = text)"
      @kept="load(true)"
    />
    <TableFinder v-if="catalog && !busy" v-model="chosen" v-model:column="column" :catalog="catalog">
      <template #more>
        <div class="mt-4 flex flex-wrap gap-8">
          <section :aria-label="t('sourcesPage.whereUsed')" data-uses>
            <h3 class="mb-1 text-sm font-semibold">
              {{ t('sourcesPage.whereIsUsed', { what: column ? readable(column).toLowerCase() : t('sourcesPage.it') }) }}
            </h3>
            <p v-if="!uses" class="text-sm text-muted">{{ t('sourcesPage.looking') }}</p>
            <p v-else-if="!uses.length" class="text-sm text-muted">
              {{ t('sourcesPage.noReportReads', { what: column ? t('sourcesPage.thisColumn') : t('sourcesPage.thisTable') }) }}
            </p>
            <ul v-else class="space-y-1 text-sm">
              <li v-for="report in uses" :key="report.id">
                <NuxtLink :to="`/reports/${report.id}/data`" class="font-medium hover:text-petrol-700 dark:hover:text-petrol-300">{{
                  report.name
                }}</NuxtLink><span class="text-muted"
                  >:
                  {{
                    report.uses
                      .map(use => `${tell(use.what)} ${use.name}`)
                      .slice(0, 6)
                      .join(', ')
                  }}{{ report.uses.length > 6 ? t('sourcesPage.andMore', { what: report.uses.length - 6 }) : '' }}</span
                >
              </li>
            </ul>
          </section>
          <section v-if="anything" :aria-label="t('sourcesPage.keptWithTheSource')" data-kept>
            <h3 class="mb-1 text-sm font-semibold">{{ t('sourcesPage.keptWithTheSource') }}</h3>
            <ul class="space-y-0.5 text-sm">
              <li v-for="each in kept.relations" :key="JSON.stringify(each)" class="flex items-center gap-2">
                <span
                  >{{ t('sourcesPage.relation') }}
                  <code class="font-mono text-xs"
                    >{{ each.from.table }}.{{ each.from.columns.join(', ') }} → {{ each.to.table }}.{{ each.to.columns.join(', ') }}</code
                  ></span
                ><UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-x"
                  :aria-label="t('sourcesPage.forgetThisRelation')"
                  @click="forget(before => ({ ...before, relations: before.relations.filter(other => !equal(other, each)) }))"
                />
              </li>
              <li v-for="each in kept.calculated" :key="each.name" class="flex items-center gap-2">
                <span
                  >{{ t('sourcesPage.calculatedField', { name: each.name }) }}
                  <code class="font-mono text-xs">{{ each.formula }}</code></span
                ><UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-x"
                  :aria-label="t('sourcesPage.forgetThisField')"
                  @click="
                    forget(before => ({
                      ...before,
                      calculated: before.calculated.filter(other => other.table !== each.table || other.name !== each.name),
                    }))
                  "
                />
              </li>
              <li v-for="[name, each] in kept.columns" :key="name" class="flex items-center gap-2">
                <span
                  >{{ name.slice(chosen.length + 1) }}:
                  {{
                    [
                      each.caption && t('sourcesPage.caption', { caption: each.caption }),
                      each.format && t('sourcesPage.format', { format: each.format }),
                    ]
                      .filter(Boolean)
                      .join(', ')
                  }}</span
                ><UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-x"
                  :aria-label="t('sourcesPage.forgetCaptionAndFormat')"
                  @click="
                    forget(before => ({
                      ...before,
                      columns: Object.fromEntries(Object.entries(before.columns).filter(([other]) => other !== name)),
                    }))
                  "
                />
              </li>
            </ul>
          </section>
        </div>
      </template>
    </TableFinder>
  </div>
</template>
