<script setup lang="ts">
import { type JoinCandidate, joinCandidates, samePairs } from '../../../core/catalog/joins'
import { type JoinMatch, type JoinSample, matchWords, sampleWords } from '../../../core/sql/match'
import { singular } from '../../../core/catalog/relations'
import type { SourceSettings } from '../../../core/books/settings'
import { findTable, type JoinPair, readable } from '../../../core/catalog/types'
import { recordAt } from '../../../core/model/ownTable'
import { usualFields } from '../../../core/templates/draft'
import { shownFields } from '../../../core/templates/drafts/data'
import { Tables } from '../../../core/templates/drafts/tables'
import { addDetail, addRelated } from '../../../core/definition/edits/levels'
import type { ReportDefinition } from '../../../core/definition/report'
import { type Joined, putJoined } from '../../../core/templates/joined'

const sources = useSources()

/** What can be joined to a level or a related record: by declared keys, kept relations, guesses, and by hand. */
const { level, record } = defineProps<{ level: string; record: string }>()
const report = useReport()
const data = useData()
const info = computed(() => data.level(level))
const catalog = computed(() => report.model!.catalog)
const held = computed(() => (record ? recordAt(info.value!.definition.related, record.split('.')) : info.value?.definition))
const table = computed(() => held.value?.table ?? '')
const owner = computed(() => (record ? readable(record.split('.').at(-1)!).toLowerCase() : singular(info.value!.caption.toLowerCase())))
const search = ref('')
const candidates = computed(() => joinCandidates(catalog.value, table.value).filter(each => each.direction === 'related' || record === ''))
const shown = computed(() => {
  const wanted = search.value.trim().toLowerCase()
  // a guess shows once its values are found
  const likely = candidates.value.filter(each => each.origin !== 'guessed' || (found(each) ?? 0) > 0)
  return wanted
    ? likely.filter(each =>
        `${each.table} ${each.name} ${findTable(catalog.value, each.table)?.comment ?? ''}`.toLowerCase().includes(wanted),
      )
    : likely
})
const matches = reactive(new Map<string, JoinMatch | JoinSample | string>())
const keyOf = (each: { table: string; direction: string; on: JoinPair[] }) => JSON.stringify([each.table, each.direction, each.on])
let stop: AbortController | undefined
/** A first look at each comes first, then all are counted one after the other, the declared keys first. */
watch(
  [table, () => data.current],
  async () => {
    stop?.abort()
    const mine = (stop = new AbortController())
    matches.clear()
    for (const look of [data.sample, data.match])
      for (const each of candidates.value) {
        try {
          const { table: to, on, direction } = each
          matches.set(keyOf(each), await look({ from: table.value, to, on, direction }, mine.signal))
        } catch (error) {
          if (mine.signal.aborted) return
          matches.set(keyOf(each), (error as Error).message)
        }
        if (mine !== stop) return
      }
  },
  { immediate: true },
)
onBeforeUnmount(() => stop?.abort())

function sentence(each: JoinCandidate): string {
  const [name, by] = each.name.split('_by_')
  return t('joinPanel.ofThis', {
    readable: readable(name!),
    value: owner.value,
    what: by ? t('joinPanel.whereItIsThe', { by: by.replaceAll('_', ' ') }) : '',
  })
}
function words(each: { table: string; direction: 'related' | 'detail'; on: JoinPair[] }): string {
  const match = matches.get(keyOf(each))
  if (match === undefined) return t('joinPanel.looking')
  if (typeof match === 'string') return tell(match)
  const joinedName = singular(readable(each.table).toLowerCase())
  return 'sampled' in match
    ? tell(sampleWords(match, each.direction, owner.value, joinedName))
    : tell(matchWords(match, each.direction, owner.value, joinedName))
}
const found = (each: JoinCandidate) => {
  const match = matches.get(keyOf(each))
  if (!match || typeof match === 'string') return undefined
  const all = 'sampled' in match ? match.sampled : match.records
  return all ? match.finding / all : undefined
}
const guessing = computed(() => candidates.value.filter(each => each.origin === 'guessed' && !matches.has(keyOf(each))).length)
const joined = (each: JoinCandidate) =>
  [...(held.value?.related ?? []), ...(record ? [] : info.value!.definition.details)].some(
    other => other.table === each.table && samePairs(other.on, each.on),
  )

async function join(
  each: Pick<JoinCandidate, 'table' | 'direction' | 'on' | 'name'> & { origin: JoinCandidate['origin'] | 'hand' },
): Promise<void> {
  const name = each.name.replace(/\W+/g, '_')
  const namesHeld = () => (each.direction === 'related' ? (held.value?.related ?? []) : info.value!.definition.details).map(own => own.name)
  const before = new Set(namesHeld())
  /** which one of several it is has to be said */
  let chosenOne = false
  const common = { name, table: each.table, on: each.on }
  if (each.direction === 'related') {
    const unique =
      findTable(catalog.value, each.table)!.primaryKey.join() === each.on.map(pair => pair.to).join() ||
      each.origin === 'declared' ||
      (await most(each)) <= 1
    report.edit(t('joinPanel.join2', { name }), definition =>
      addRelated(definition, level, record, {
        ...common,
        // what it is joined by is said already
        fields: usualFields(
          catalog.value,
          each.table,
          1,
          each.on.map(pair => pair.to),
        ),
        ...(unique ? {} : { pick: { sort: [] } }),
      }),
    )
    chosenOne = !unique
  } else {
    const fields = shownFields(new Tables(catalog.value), each.table, [])
    report.edit(t('joinPanel.join2', { name }), definition => addDetail(definition, level, { ...common, caption: readable(name), fields }))
  }
  if (data.panel?.kind === 'join') data.panel = undefined
  // it has got a name of its own where that one was taken
  const made = namesHeld().find(own => !before.has(own)) ?? name
  const path = record ? `${record}.${made}` : made
  if (chosenOne) data.panel = { kind: 'related', level, record: path }
  offer(each.direction === 'related' ? { level, record: path } : { level, detail: made })
  if (each.origin === 'guessed' || each.origin === 'hand') await remember(each)
}
const toast = useToast()
/** What was joined can go onto the page at once, where a draft would have it. */
function offer(what: Joined): void {
  const put = (definition: ReportDefinition) => putJoined(definition, report.model!.catalog, report.tree!.levels, what)
  const name = readable('detail' in what ? what.detail : what.record.split('.').at(-1)!)
  const possible = put(report.definition!) !== undefined
  toast.add({
    title: t('joinPanel.isJoined', { name }),
    ...(possible
      ? {
          description: t('joinPanel.itsTickedFieldsCanStand'),
          actions: [
            {
              label: t('joinPanel.putOnThePage'),
              color: 'neutral' as const,
              variant: 'outline' as const,
              onClick: () => report.edit(t('joinPanel.putOnThePage2', { name }), definition => put(definition) ?? definition),
            },
          ],
        }
      : {}),
  })
}
/** How many partners a record has at most: of all, not of those of a first look. */
async function most({ table: to, direction, on }: Pick<JoinCandidate, 'table' | 'direction' | 'on'>): Promise<number> {
  const match = matches.get(keyOf({ table: to, direction, on }))
  if (match && typeof match !== 'string' && 'most' in match) return match.most
  return (await data.match({ from: table.value, to, on: on.map(pair => ({ ...pair })), direction })).most
}

/** A relation that was accepted or made by hand is known to the source from now on. */
async function remember(each: Pick<JoinCandidate, 'table' | 'direction' | 'on'>): Promise<void> {
  if (table.value.startsWith('@') || each.table.startsWith('@')) return
  const [child, parent] = each.direction === 'related' ? [table.value, each.table] : [each.table, table.value]
  const side = (which: 'from' | 'to') => each.on.map(pair => pair[which])
  try {
    const relation = {
      from: { table: child, columns: side(each.direction === 'related' ? 'from' : 'to') },
      to: { table: parent, columns: side(each.direction === 'related' ? 'to' : 'from') },
      unique: each.direction === 'detail' || (await most(each)) <= 1,
    }
    const said = (each: SourceSettings['relations'][number]) =>
      JSON.stringify([each.from.table, each.from.columns, each.to.table, each.to.columns])
    await sources.changeSettings(settings =>
      settings.relations.some(other => said(other) === said(relation))
        ? settings
        : { ...settings, relations: [...settings.relations, relation] },
    )
    await report.readCatalog(true)
  } catch (error) {
    useToast().add({ title: tell((error as Error).message), color: 'error' })
  }
}

const byHand = ref(false)
const hand = reactive<{ table: string; direction: 'related' | 'detail'; on: JoinPair[] }>({
  table: '',
  direction: 'related',
  on: [{ from: '', to: '' }],
})
const tables = computed(() =>
  catalog.value.tables
    .filter(each => each.name !== table.value)
    .map(each => ({
      label: each.name.startsWith('@') ? t('common.ofThisReport', { readable: readable(each.name) }) : readable(each.name),
      value: each.name,
    })),
)
const columnsIn = (name: string) => (findTable(catalog.value, name)?.columns ?? []).map(column => column.name)
const complete = computed(() => hand.table !== '' && hand.on.every(pair => pair.from && pair.to))
const handProblem = ref('')
watch(
  hand,
  useDebounceFn(async () => {
    handProblem.value = ''
    if (!complete.value) return
    try {
      const on = hand.on.map(pair => ({ ...pair }))
      const { table: to, direction } = hand
      matches.set(keyOf({ ...hand, on }), await data.match({ from: table.value, to, on, direction }))
    } catch (error) {
      handProblem.value = (error as Error).message
    }
  }, 300),
)
const handName = computed(() => (hand.direction === 'related' ? singular(hand.table.replace(/^@/, '')) : hand.table.replace(/^@/, '')))
</script>

<template>
  <DataSidePanel
    v-if="info"
    :title="t('joinPanel.joinTo', { what: record ? owner : info.caption.toLowerCase() })"
    :level="info.index"
    data-join
  >
    <UInput
      v-model="search"
      size="sm"
      icon="i-lucide-search"
      :placeholder="t('common.findATable')"
      class="w-full"
      :aria-label="t('joinPanel.findATableToJoin')"
    />
    <div class="-mx-2">
      <template v-for="(each, at) in shown" :key="keyOf(each)">
        <h3 v-if="at === 0 || shown[at - 1]!.origin !== each.origin" class="px-2 pb-0.5 pt-2 text-xs font-semibold text-muted">
          {{
            {
              declared: t('joinPanel.byTheKeysOfThe'),
              kept: t('joinPanel.keptWithTheSource'),
              guessed: t('joinPanel.guessedFromNamesAndTypes'),
            }[each.origin]
          }}
        </h3>
        <button class="block w-full rounded px-2 py-1 text-left hover:bg-elevated" :data-candidate="each.table" @click="join(each)">
          <span class="flex items-baseline gap-2"
            ><span class="font-medium">{{ sentence(each) }}</span
            ><span v-if="joined(each)" class="text-xs text-moss-700 dark:text-moss-300">{{ t('joinPanel.joined') }}</span
            ><span
              v-if="each.origin === 'guessed' && found(each) !== undefined"
              class="ml-auto rounded bg-apricot-100 px-1 text-xs text-apricot-800 dark:bg-apricot-900 dark:text-apricot-100"
              >{{ t('joinPanel.guessedFound', { floor: Math.floor(found(each)! * 100) }) }}</span
            ></span
          >
          <span class="block text-xs text-muted"
            >{{ each.direction === 'related' ? t('joinPanel.oneAtMost') : t('joinPanel.many') }} ·
            <code class="font-mono">{{ each.table }}</code> · {{ words(each) }}</span
          >
        </button>
      </template>
      <p v-if="guessing" class="px-2 pt-1 text-sm text-muted">
        {{ t('joinPanel.trying', { guessing, what: t('joinPanel.guessGuesses', guessing) }) }}
      </p>
      <p v-if="!shown.length && !guessing" class="px-2 text-sm text-muted">
        {{ search ? t('joinPanel.noTableOfThisName') : t('joinPanel.nothingPointsHereOrFrom') }}
      </p>
    </div>
    <UButton v-if="!byHand" size="sm" variant="outline" color="neutral" icon="i-lucide-link" @click="byHand = true">{{
      t('joinPanel.joinByHand')
    }}</UButton>
    <section v-else class="space-y-2 rounded-md border border-default p-3" :aria-label="t('joinPanel.joinByHand')">
      <USelectMenu
        v-model="hand.table"
        :items="tables"
        value-key="value"
        size="sm"
        class="w-full"
        :placeholder="t('joinPanel.whichTable')"
        :search-input="{ placeholder: t('common.findATable') }"
        :aria-label="t('common.table')"
      />
      <div v-if="!record" class="flex gap-4 text-sm">
        <label class="flex items-center gap-1.5"
          ><input v-model="hand.direction" type="radio" value="related" class="accent-petrol-700" />
          {{ t('joinPanel.eachHasOne', { owner }) }}</label
        >
        <label class="flex items-center gap-1.5"
          ><input v-model="hand.direction" type="radio" value="detail" class="accent-petrol-700" /> {{ t('joinPanel.itHasMany') }}</label
        >
      </div>
      <div v-for="(pair, index) in hand.on" :key="index" class="flex items-center gap-1.5">
        <USelectMenu
          v-model="pair.from"
          :items="columnsIn(table)"
          size="sm"
          class="min-w-0 grow"
          :placeholder="t('joinPanel.of', { owner })"
          :aria-label="t('joinPanel.fieldOf', { owner })"
        />
        <span class="text-muted">=</span>
        <USelectMenu
          v-model="pair.to"
          :items="columnsIn(hand.table)"
          size="sm"
          class="min-w-0 grow"
          :placeholder="t('joinPanel.ofTheTable')"
          :aria-label="t('joinPanel.fieldOfTheJoinedTable')"
        />
        <UButton
          v-if="hand.on.length > 1"
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('joinPanel.takeThisPairOut')"
          @click="hand.on.splice(index, 1)"
        />
      </div>
      <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="hand.on.push({ from: '', to: '' })">{{
        t('joinPanel.andAnotherPair')
      }}</UButton>
      <p v-if="handProblem" class="text-sm text-error" role="alert">{{ handProblem }}</p>
      <p v-else-if="complete" class="text-sm text-muted" data-hand-match>{{ words(hand) }}</p>
      <UButton
        size="sm"
        :disabled="!complete || !!handProblem"
        @click="join({ ...hand, on: hand.on.map(pair => ({ ...pair })), name: handName, origin: 'hand' })"
        >{{ t('joinPanel.join') }}</UButton
      >
    </section>
  </DataSidePanel>
</template>
