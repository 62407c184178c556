<script setup lang="ts">
import { type AuditCheck, type AuditEntry, type AuditKind, auditKinds } from '../../core/api/audit'
import type { PersonInfo } from '../../core/api/people'

/** What was done by whom, to be searched, checked and taken away. */
useHead({ title: t('logPage.logEstante') })
const search = reactive({ words: '', kind: 'any', from: '', to: '' })
/** What can be done, to choose from. */
const kindItems = [
  { value: 'any', label: t('logPage.anything') },
  ...auditKinds.map(kind => ({ value: kind as string, label: tell(kind) })),
]
const entries = shallowRef<AuditEntry[]>()
const more = ref(false)
const problem = ref('')
const checked = shallowRef<AuditCheck>()
const asked = computed(
  () =>
    new URLSearchParams(
      Object.entries({
        words: search.words.trim(),
        kind: search.kind === 'any' ? '' : search.kind,
        from: search.from,
        to: search.to,
      }).filter(([, value]) => value),
    ),
)
let turn = 0
async function load(below?: number): Promise<void> {
  const mine = ++turn
  problem.value = ''
  try {
    const found = await api<AuditEntry[]>(
      `/api/audit?${new URLSearchParams([...asked.value, ...(below ? [['below', String(below)]] : [])])}`,
    )
    if (mine !== turn) return
    entries.value = below ? [...entries.value!, ...found] : found
    more.value = found.length === 100
  } catch (error) {
    if (mine === turn) problem.value = (error as Error).message
  }
}
watch(
  asked,
  useDebounceFn(() => load(), 250),
)
void load()
async function check(): Promise<void> {
  try {
    checked.value = await api<AuditCheck>('/api/audit/check')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
/** Whose name and addresses are to be taken out of all entries. */
const leaving = shallowRef<AuditEntry['personal']>()
async function takeOut(): Promise<void> {
  const { id } = leaving.value!
  leaving.value = undefined
  try {
    await api(`/api/audit/${encodeURIComponent(id)}`, { method: 'DELETE' })
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
/** What is found, as a file. */
const files = computed(() =>
  [
    { label: t('common.csv'), format: 'csv' },
    { label: t('logPage.jsonLines'), format: 'jsonl' },
  ].map(({ label, format }) => ({ label, onSelect: () => window.location.assign(`/api/audit/file?${asked.value}&format=${format}`) })),
)
/** Names of those who are here, for entries that are about somebody: these keep nobody's name. */
const names = shallowRef(new Map<string, string>())
void api<PersonInfo[]>('/api/people')
  .then(list => (names.value = new Map(list.map(each => [each.id, each.name]))))
  .catch(() => {})
/** Facts as people read them. */
function words({ about }: AuditEntry): string {
  const { report, source, team, person, role, version, answers, rows, state, format, what } = about as Record<string, string | undefined>
  const { changes } = about as { changes?: unknown }
  const counted =
    rows && typeof rows === 'object'
      ? Object.entries(rows as Record<string, number>).map(([level, count]) => `${grouped(count)} ${level}`)
      : []
  const given =
    answers && typeof answers === 'object'
      ? Object.entries(answers as Record<string, string>).map(([name, value]) => `${name} ${value}`)
      : []
  return [
    report,
    source,
    team,
    person === undefined ? '' : (names.value.get(person) ?? t('logPage.somebodyWhoIsGone')),
    version === undefined ? '' : t('logPage.version', { version }),
    ...[role, what, state].map(word => (typeof word === 'string' ? tell(word) : '')),
    format?.toUpperCase(),
    ...counted,
    ...given,
    ...(Array.isArray(changes) ? changes.map(each => tell(String(each))) : []),
  ]
    .filter(Boolean)
    .join(' · ')
}
const marks: Partial<Record<AuditKind, string>> = { 'sign-in refused': 'text-error' }
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar home />
    <Notice v-if="problem" :text="problem" kind="error" />
    <main class="desk grow px-10 py-6">
      <div class="mb-3 flex items-center gap-2">
        <h1 class="mr-3 font-display text-lg font-semibold">{{ t('common.log') }}</h1>
        <UInput
          v-model="search.words"
          size="sm"
          icon="i-lucide-search"
          class="w-64"
          :placeholder="t('logPage.findWhoOrWhat')"
          :aria-label="t('logPage.findWhoOrWhatIn')"
        />
        <USelect v-model="search.kind" :items="kindItems" size="sm" class="w-44" :aria-label="t('logPage.whatWasDone')" />
        <DayField v-model="search.from" :aria-label="t('logPage.from')" />
        <span class="text-sm text-muted">{{ t('common.to') }}</span>
        <DayField v-model="search.to" :aria-label="t('logPage.to')" />
        <span class="ml-auto flex shrink-0 items-center gap-2"
          ><UButton size="sm" variant="outline" color="neutral" icon="i-lucide-link" class="whitespace-nowrap" @click="check">{{
            t('logPage.checkTheChain')
          }}</UButton
          ><UDropdownMenu :items="files" :content="{ align: 'end' }"
            ><UButton size="sm" variant="outline" color="neutral" icon="i-lucide-download" trailing-icon="i-lucide-chevron-down">{{
              t('logPage.takeAway')
            }}</UButton></UDropdownMenu
          ></span
        >
      </div>
      <p v-if="checked" class="mb-3 text-sm" :class="checked.whole ? 'text-muted' : 'text-error'" role="status">
        {{ checked.whole ? t('logPage.allEntriesAreAsThey', { entries: grouped(checked.entries) }) : tell(checked.sentence) }}
      </p>
      <p v-if="entries && !entries.length" class="text-muted" role="status">{{ t('logPage.nothingOfThisKindIs') }}</p>
      <table
        v-else-if="entries"
        class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default text-sm"
        data-log
      >
        <thead>
          <tr class="text-left text-muted">
            <th class="px-4 py-2 text-right font-medium">{{ t('logPage.no') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('logPage.when') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('logPage.who') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('logPage.what') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('logPage.about') }}</th>
            <th class="px-4 py-2 font-medium">{{ t('logPage.from') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="each in entries" :key="each.number" class="[&>td]:border-t [&>td]:border-default">
            <td class="px-4 py-1.5 text-right tabular-nums text-muted">{{ each.number }}</td>
            <td class="whitespace-nowrap px-3 py-1.5 tabular-nums">{{ exactWords(each.at) }}</td>
            <td class="whitespace-nowrap px-3 py-1.5">
              <UDropdownMenu
                v-if="each.personal?.id"
                :items="[
                  [
                    {
                      label: t('logPage.takeOutWhatIsPersonal'),
                      icon: 'i-lucide-user-round-x',
                      onSelect: () => void (leaving = each.personal),
                    },
                  ],
                ]"
                ><button class="hover:underline" :aria-label="t('logPage.moreOf', { name: each.personal.name })">
                  {{ each.personal.name }}
                </button></UDropdownMenu
              ><template v-else>{{ each.personal ? each.personal.name || t('logPage.unknown') : t('logPage.takenOut') }}</template>
            </td>
            <td class="whitespace-nowrap px-3 py-1.5" :class="marks[each.kind]">{{ tell(each.kind) }}</td>
            <td class="max-w-xl truncate px-3 py-1.5 text-muted" :title="words(each)">{{ words(each) }}</td>
            <td class="px-4 py-1.5 tabular-nums text-muted">{{ each.personal?.address }}</td>
          </tr>
        </tbody>
      </table>
      <UModal
        :open="!!leaving"
        :title="t('logPage.takeOutWhatIsPersonal2', { what: leaving?.name ?? '' })"
        :description="t('logPage.theirNameAndAddressesLeave')"
        @update:open="open => open || (leaving = undefined)"
      >
        <template #footer>
          <UButton color="error" @click="takeOut">{{ t('common.takeOut') }}</UButton>
          <UButton variant="ghost" color="neutral" @click="leaving = undefined">{{ t('common.keep') }}</UButton>
        </template>
      </UModal>
      <UButton v-if="more" class="mt-3" size="sm" variant="outline" color="neutral" @click="load(entries!.at(-1)!.number)">{{
        t('logPage.earlierOnes')
      }}</UButton>
    </main>
  </div>
</template>
