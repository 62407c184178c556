<script setup lang="ts">
import { forceCenter, forceCollide, forceLink, forceManyBody, forceSimulation, type SimulationNodeDatum } from 'd3'
import { joinCandidates, searchCatalog } from '../../core/catalog/joins'
import type { Catalog } from '../../core/books/catalog'
import { type CatalogColumn, columnCaption, findTable, readable } from '../../core/catalog/types'
import type { FieldInfo } from '../../core/formula/typed'
import { readEnvelope } from '../../core/value/envelope'
import type { LevelRecords } from '../../core/value/records'
import { valueAt } from '../../core/value/columns'

const sources = useSources()

/**
 * One search over a source: names, captions, comments, and values; the chosen table with its columns, first rows and what it relates
 * to.
 */
const { catalog, start = '' } = defineProps<{ catalog: Catalog; start?: string }>()
const chosen = defineModel<string>({ default: '' })
const column = defineModel<string>('column', { default: '' })
const search = ref(start)
const field = useTemplateRef<{ inputRef: HTMLInputElement | null }>('field')
/** The search takes the keyboard, unless a menu or dialog has been opened meanwhile: that would close. */
onMounted(() =>
  setTimeout(() => {
    const own = field.value?.inputRef
    const open = document.activeElement?.closest('[role="menu"], [role="listbox"], [role="dialog"]')
    if (!open || open.contains(own ?? null)) own?.focus()
  }),
)
const byName = computed(() =>
  search.value.trim()
    ? searchCatalog(catalog, search.value)
    : catalog.tables.map(table => ({ table: table.name, where: 'table' as const, rank: 0 })),
)
const byValue = ref<{ table: string; column: string; rows: number }[]>([])
const looking = ref('')
const problem = ref('')
let stop: AbortController | undefined
/** Values are looked for table by table, the small ones first; hits show as they come. */
const lookForValues = useDebounceFn(async () => {
  stop?.abort()
  byValue.value = []
  looking.value = ''
  const value = search.value.trim()
  if (value.length < 2) return
  const mine = (stop = new AbortController())
  const tables = [...catalog.tables].sort((a, b) => a.rowEstimate - b.rowEstimate).map(table => table.name)
  try {
    for (let at = 0; at < tables.length; at += 6) {
      looking.value = t('tableFinder.lookingIn', { table: readable(tables[at]!).toLowerCase() })
      const hits = await api<{ table: string; column: string; rows: number }[]>(sources.path('search'), {
        method: 'POST',
        body: { value, tables: tables.slice(at, at + 6) },
        signal: mine.signal,
      })
      if (mine !== stop) return
      byValue.value = [...byValue.value, ...hits].sort((a, b) => a.rows - b.rows)
    }
    problem.value = ''
  } catch (error) {
    if (!mine.signal.aborted) problem.value = (error as Error).message
  } finally {
    if (mine === stop) looking.value = ''
  }
}, 300)
watch(search, () => void lookForValues(), { immediate: true })
onBeforeUnmount(() => stop?.abort())
/** Somebody has chosen a table since the search changed: hits that come later leave it. */
let picked = !!chosen.value
function choose(name: string): void {
  picked = true
  chosen.value = name
}
watch(search, () => (picked = false))
watch(
  [byName, byValue],
  () => {
    const best = byName.value[0]?.table ?? byValue.value[0]?.table
    if (best !== undefined && !picked && (search.value.trim() || !chosen.value)) chosen.value = best
  },
  { immediate: true, flush: 'post' },
)

const table = computed(() => findTable(catalog, chosen.value))
const relations = computed(() => (table.value ? joinCandidates(catalog, table.value.name) : []))
const describeHit = (hit: { table: string; column?: string; where: string }) =>
  hit.column
    ? t('tableFinder.column', { column: readable(hit.column).toLowerCase() })
    : hit.where === 'comment'
      ? t('tableFinder.inItsComment')
      : ''

const rows = shallowRef<LevelRecords>()
/** They are read again with the tables: a source that was refreshed has others. */
watch(
  [chosen, () => catalog],
  async ([name, within], [before] = ['', undefined]) => {
    rows.value = undefined
    if (name !== before) column.value = ''
    if (!name) return
    try {
      const found = await apiBytes(sources.path(`tables/${encodeURIComponent(name)}`))
      if (chosen.value === name && catalog === within) rows.value = readEnvelope(found).levels[0]
    } catch (error) {
      problem.value = (error as Error).message
    }
  },
  { immediate: true },
)
const fieldOf = (name: string): FieldInfo => {
  const found = table.value!.columns.find(each => each.name === name)!
  return {
    level: 0,
    path: name,
    type: found.type,
    scale: found.scale,
    role: /_id$|^id$/.test(name) ? 'key' : 'measure',
    caption: columnCaption(found),
    format: found.format,
    column: found,
    record: '',
  }
}
const cell = (name: string, row: number) => {
  const held = rows.value!.columns[name]
  // a column that has come since the rows were read
  return held ? fieldText(fieldOf(name), valueAt(held, row), locale()) : ''
}
const holds = (name: string) => byValue.value.find(hit => hit.table === chosen.value && hit.column === name)

interface Node extends SimulationNodeDatum {
  id: string
  kind: 'here' | 'above' | 'below' | 'guess'
  words: string
}
const [width, height] = [520, 300]
/** The chosen table in the middle, what it points at above it, what points at it below. */
const drawing = computed(() => {
  if (!table.value) return { nodes: [] as Node[], links: [] as { source: Node; target: Node; words: string }[] }
  const here: Node = { id: table.value.name, kind: 'here', words: '', fx: width / 2, fy: height / 2 }
  const others = new Map<string, Node>()
  for (const each of relations.value) {
    const kind = each.origin === 'guessed' ? ('guess' as const) : each.direction === 'related' ? ('above' as const) : ('below' as const)
    if (each.table === here.id) continue
    const known = others.get(each.table)
    if (!known) others.set(each.table, { id: each.table, kind, words: each.on.map(pair => `${pair.from} = ${pair.to}`).join(' and ') })
  }
  const nodes = [here, ...[...others.values()].slice(0, 16)]
  nodes.slice(1).forEach((node, index) => {
    node.x = width / 2 + Math.cos(index * 2.4) * 140
    node.y = node.kind === 'above' ? 50 : height - 50
  })
  const links = nodes.slice(1).map(node => ({ source: here, target: node, words: node.words }))
  const simulation = forceSimulation<Node>(nodes)
    .force('charge', forceManyBody().strength(-260))
    .force('center', forceCenter(width / 2, height / 2).strength(0.05))
    .force(
      'collide',
      forceCollide<Node>(node => 20 + node.id.length * 2.6),
    )
    .force('link', forceLink<Node, { source: Node; target: Node }>(links).distance(110))
    .force('row', (alpha: number) =>
      nodes.forEach(node => {
        if (node.kind !== 'here') node.vy = (node.vy ?? 0) + ((node.kind === 'above' ? 46 : height - 46) - node.y!) * alpha * 0.55
      }),
    )
    .stop()
  simulation.tick(160)
  for (const node of nodes) {
    node.x = Math.min(width - 50, Math.max(50, node.x!))
    node.y = Math.min(height - 16, Math.max(16, node.y!))
  }
  return { nodes, links }
})
const nodeWidth = (id: string) => readable(id).length * 6.4 + 18
/** The type of a column as its list shows it; digits of floating-point numbers may differ from what people mean. */
const typeWords = ({ type, databaseType, inexact }: CatalogColumn) =>
  type === 'moment'
    ? t('tableFinder.dateAndTime')
    : `${databaseType.replace('character varying', 'text')}${inexact ? t('tableFinder.notExact') : ''}`
</script>

<template>
  <div class="flex min-h-0 min-w-0 grow">
    <aside class="bar flex w-[300px] shrink-0 flex-col border-r border-default" :aria-label="t('tableFinder.tables')">
      <div class="p-3 pb-2">
        <UInput
          ref="field"
          v-model="search"
          icon="i-lucide-search"
          class="w-full"
          :placeholder="t('tableFinder.aNameACommentOr')"
          :aria-label="t('tableFinder.findATableByName')"
        />
      </div>
      <div class="grow overflow-auto px-2 pb-3">
        <button
          v-for="hit in byName"
          :key="hit.table"
          class="flex w-full items-baseline gap-2 rounded px-2 py-1 text-left"
          :class="chosen === hit.table ? 'bg-petrol-100 dark:bg-petrol-900' : 'hover:bg-elevated'"
          :aria-current="chosen === hit.table"
          :data-table="hit.table"
          @click="choose(hit.table)"
        >
          <span class="min-w-0 grow"
            ><span class="block truncate font-medium">{{ readable(hit.table) }}</span
            ><span v-if="describeHit(hit)" class="block truncate text-xs text-muted">{{ describeHit(hit) }}</span></span
          >
          <span class="shrink-0 text-xs text-dimmed">{{ grouped(findTable(catalog, hit.table)!.rowEstimate) }}</span>
        </button>
        <template v-if="search.trim().length > 1">
          <h3 class="px-2 pb-0.5 pt-3 text-xs font-semibold text-muted">{{ t('tableFinder.holding', { search: search.trim() }) }}</h3>
          <button
            v-for="hit in byValue"
            :key="hit.table + hit.column"
            class="flex w-full items-baseline gap-2 rounded px-2 py-1 text-left"
            :class="chosen === hit.table && column === hit.column ? 'bg-petrol-100 dark:bg-petrol-900' : 'hover:bg-elevated'"
            :data-value-hit="`${hit.table}.${hit.column}`"
            @click="
              () => {
                choose(hit.table)
                nextTick(() => (column = hit.column))
              }
            "
          >
            <span class="min-w-0 grow truncate"
              ><span class="font-medium">{{ readable(hit.table) }}</span>
              <span class="text-muted">· {{ readable(hit.column).toLowerCase() }}</span></span
            ><span class="shrink-0 text-xs text-dimmed">{{ grouped(hit.rows) }} {{ t('common.rowRows', hit.rows) }}</span>
          </button>
          <p v-if="looking" class="px-2 text-sm text-muted">{{ looking }}</p>
          <p v-else-if="!byValue.length" class="px-2 text-sm text-muted">{{ t('tableFinder.noColumnHoldsIt') }}</p>
        </template>
        <p v-if="problem" class="px-2 text-sm text-error" role="alert">{{ tell(problem) }}</p>
      </div>
    </aside>
    <main
      v-if="table"
      class="min-w-0 grow overflow-auto bg-default p-5"
      :aria-label="t('tableFinder.table', { readable: readable(table.name) })"
    >
      <div class="flex items-start gap-4">
        <div class="min-w-0 grow">
          <h2 class="font-display text-xl font-semibold">{{ readable(table.name) }}</h2>
          <p class="text-sm text-muted">
            <code class="font-mono text-xs">{{ table.name }}</code>
            {{
              t('tableFinder.aboutKey', {
                whole: grouped(table.rowEstimate),
                what: t('common.rowRows', table.rowEstimate),
                what2: table.primaryKey.join(', ') || t('common.none'),
              })
            }}<template v-if="table.comment"> · {{ table.comment }}</template>
          </p>
        </div>
        <slot name="action" />
      </div>
      <div class="mt-4 flex flex-wrap gap-5">
        <section class="w-[330px]" :aria-label="t('common.columns')">
          <h3 class="mb-1 text-sm font-semibold">{{ t('tableFinder.columns', { count: table.columns.length }) }}</h3>
          <div class="max-h-[300px] overflow-auto rounded-md border border-default">
            <button
              v-for="each in table.columns"
              :key="each.name"
              class="flex min-h-[24px] w-full items-baseline gap-2 px-2.5 py-0.5 text-left text-sm"
              :class="column === each.name ? 'bg-petrol-100 dark:bg-petrol-900' : 'hover:bg-elevated'"
              :data-column="each.name"
              @click="column = column === each.name ? '' : each.name"
            >
              <UIcon
                v-if="table.primaryKey.includes(each.name)"
                name="i-lucide-key-round"
                class="size-3 shrink-0 self-center text-apricot-600"
              /><span class="truncate" :class="each.required ? '' : 'text-toned'" :title="each.comment">{{ columnCaption(each) }}</span
              ><span
                v-if="holds(each.name)"
                class="shrink-0 rounded bg-apricot-100 px-1 text-xs text-apricot-800 dark:bg-apricot-900 dark:text-apricot-100"
                >{{ grouped(holds(each.name)!.rows) }}</span
              ><span class="ml-auto shrink-0 text-xs text-dimmed">{{ typeWords(each) }}</span>
            </button>
          </div>
        </section>
        <section class="min-w-0 grow" :aria-label="t('tableFinder.relations')">
          <h3 class="mb-1 text-sm font-semibold">{{ t('tableFinder.relatesTo') }}</h3>
          <svg
            :viewBox="`0 0 ${width} ${height}`"
            class="w-full max-w-[620px] rounded-md border border-default"
            role="img"
            :aria-label="t('tableFinder.relationsOf', { readable: readable(table.name) })"
            data-relations
          >
            <line
              v-for="link in drawing.links"
              :key="link.target.id"
              :x1="link.source.x"
              :y1="link.source.y"
              :x2="link.target.x"
              :y2="link.target.y"
              :stroke="link.target.kind === 'guess' ? 'var(--level-1)' : 'var(--level-4)'"
              stroke-width="1.2"
              :stroke-dasharray="link.target.kind === 'guess' ? '4 3' : undefined"
              opacity="0.6"
            >
              <title>{{ link.words }}</title>
            </line>
            <g
              v-for="node in drawing.nodes"
              :key="node.id"
              :transform="`translate(${node.x},${node.y})`"
              class="cursor-pointer"
              role="button"
              @click="choose(node.id)"
            >
              <rect
                :x="-nodeWidth(node.id) / 2"
                y="-11"
                :width="nodeWidth(node.id)"
                height="22"
                rx="5"
                :fill="node.kind === 'here' ? 'var(--level-0)' : 'var(--bar)'"
                :stroke="node.kind === 'here' ? 'none' : node.kind === 'guess' ? 'var(--level-1)' : 'var(--level-4)'"
                stroke-width="0.8"
              />
              <text
                text-anchor="middle"
                y="4"
                font-size="11.5"
                :fill="node.kind === 'here' ? (node.kind === 'here' ? 'var(--ui-bg)' : '') : 'currentColor'"
              >
                {{ readable(node.id) }}
              </text>
              <title>{{ node.words || readable(node.id) }}</title>
            </g>
          </svg>
          <p class="pt-1 text-xs text-muted">
            {{ t('tableFinder.aboveWhatEachRowPoints') }}
          </p>
        </section>
      </div>
      <slot name="more" />
      <section v-if="rows" class="mt-4" :aria-label="t('tableFinder.firstRows')">
        <h3 class="mb-1 text-sm font-semibold">{{ t('tableFinder.firstRows') }}</h3>
        <div class="overflow-auto rounded-md border border-default">
          <table class="text-[13px]">
            <thead>
              <tr>
                <th
                  v-for="each in table.columns"
                  :key="each.name"
                  class="whitespace-nowrap border-b border-default px-2.5 py-1 font-semibold"
                  :class="[
                    each.type === 'number' ? 'text-right' : 'text-left',
                    column === each.name ? 'bg-petrol-100 dark:bg-petrol-900' : '',
                  ]"
                >
                  {{ columnCaption(each) }}
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(_, row) in Math.min(12, rows.count)" :key="row">
                <td
                  v-for="each in table.columns"
                  :key="each.name"
                  class="max-w-60 truncate px-2.5 py-0.5"
                  :class="[each.type === 'number' ? 'text-right' : '', column === each.name ? 'bg-petrol-50 dark:bg-petrol-950' : '']"
                >
                  {{ cell(each.name, row) }}
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>
    </main>
  </div>
</template>
