<script setup lang="ts">
import { VueDraggable } from 'vue-draggable-plus'
import type { LibraryShelf } from '../../core/api/answers'
import type { Team } from '../../core/api/people'

type Listed = LibraryShelf['reports'][number]

const sources = useSources()
const me = useMe()
/** Is it theirs to edit? Where it leads: authors go on with it, readers run it. */
const edits = (report: Listed) => me.author && report.edit !== false
const leadsTo = (report: Listed) => (edits(report) ? `/reports/${report.id}/page` : `/run/${report.id}`)
const library = useLibrary()
const { shelves, shown, problem, load, search, hits, found } = library
const toast = useToast()
useHead({ title: t('libraryPage.libraryEstante') })

void load()
// what the miniatures are drawn with comes meanwhile
void paperFonts()

/** A name that is being written: of a report, of a shelf, or of a new shelf. */
const naming = ref<{ what: 'report' | 'shelf' | 'new'; id: string; name: string }>()
const field = useTemplateRef<{ $el: HTMLElement }[]>('field')
function name(what: 'report' | 'shelf' | 'new', id: string, own: string): void {
  naming.value = { what, id, name: own }
  // the menu gives the focus back to its button first
  setTimeout(() => {
    const input = (Array.isArray(field.value) ? field.value[0] : field.value)?.$el.querySelector('input')
    input?.focus()
    input?.select()
  }, 60)
}
async function named(): Promise<void> {
  const now = naming.value
  naming.value = undefined
  const to = now?.name.trim()
  if (!now || !to) return
  if (now.what === 'new') await library.addShelf(to)
  else if (now.what === 'shelf') await library.changeShelf(now.id, { name: to })
  else {
    const report = shelves.value?.flatMap(shelf => shelf.reports).find(each => each.id === now.id)
    if (report && report.name !== to) await library.rename(report, to)
  }
}

/** The report whose readers and authors are looked at. */
const audience = shallowRef<Listed>()
/** Teams, for whoever says whose a shelf is. */
const teams = shallowRef<Pick<Team, 'id' | 'name'>[]>([])
watch(
  () => me.person?.role === 'administrator',
  async is => {
    if (is) teams.value = await api<Team[]>('/api/teams').catch(() => [])
  },
  { immediate: true },
)
const teamName = (id: string | undefined) => teams.value.find(each => each.id === id)?.name

const menu = (report: Listed, shelf: LibraryShelf) => [
  [
    {
      label: t('common.run'),
      icon: 'i-lucide-play',
      kbds: ['enter'],
      disabled: report.published === null,
      onSelect: () => navigateTo(`/run/${report.id}`),
    },
    { label: t('common.edit'), icon: 'i-lucide-pencil', kbds: ['E'], onSelect: () => navigateTo(`/reports/${report.id}/page`) },
    { label: t('libraryPage.history'), icon: 'i-lucide-history', onSelect: () => navigateTo(`/reports/${report.id}/page?versions=yes`) },
    ...(me.people
      ? [{ label: t('libraryPage.whoRunsAndEditsIt'), icon: 'i-lucide-users-round', onSelect: () => void (audience.value = report) }]
      : []),
  ],
  [
    { label: t('libraryPage.copy'), icon: 'i-lucide-copy', kbds: ['C'], onSelect: () => void library.copy(report) },
    { label: t('common.rename'), icon: 'i-lucide-text-cursor-input', kbds: ['F2'], onSelect: () => name('report', report.id, report.name) },
    {
      label: t('libraryPage.moveTo'),
      icon: 'i-lucide-arrow-right-left',
      disabled: (shelves.value?.length ?? 0) < 2,
      children: (shelves.value ?? [])
        .filter(each => each.id !== shelf.id)
        .map(each => ({ label: each.name, onSelect: () => void library.place(report.id, each.id) })),
    },
    {
      label: t('libraryPage.exportDefinition'),
      icon: 'i-lucide-download',
      onSelect: () => void (location.href = `/api/reports/${report.id}/export`),
    },
  ],
  [
    {
      label: t('libraryPage.putAway'),
      icon: 'i-lucide-trash-2',
      color: 'error' as const,
      kbds: ['delete'],
      onSelect: () => void away(report),
    },
  ],
]
const shelfMenu = (shelf: LibraryShelf, at: number) => [
  [
    { label: t('common.rename'), icon: 'i-lucide-text-cursor-input', onSelect: () => name('shelf', shelf.id, shelf.name) },
    {
      label: t('libraryPage.moveUp'),
      icon: 'i-lucide-arrow-up',
      disabled: at === 0,
      onSelect: () => void library.changeShelf(shelf.id, { move: -1 }),
    },
    {
      label: t('libraryPage.moveDown'),
      icon: 'i-lucide-arrow-down',
      disabled: at === (shelves.value?.length ?? 0) - 1,
      onSelect: () => void library.changeShelf(shelf.id, { move: 1 }),
    },
    {
      label: t('libraryPage.newReportOnIt'),
      icon: 'i-lucide-plus',
      onSelect: () => navigateTo(`/new?${new URLSearchParams({ shelf: shelf.name })}`),
    },
  ],
  ...(teams.value.length
    ? [
        [
          {
            label: t('libraryPage.whoseItIs'),
            icon: 'i-lucide-users-round',
            children: [{ id: '', name: t('libraryPage.everybodys') }, ...teams.value].map(team => ({
              label: team.name,
              type: 'checkbox' as const,
              checked: (shelf.team ?? '') === team.id,
              onSelect: () => void library.changeShelf(shelf.id, { team: team.id }),
            })),
          },
          {
            label: t('libraryPage.aSecondPersonReleases2'),
            icon: 'i-lucide-user-round-check',
            type: 'checkbox' as const,
            checked: shelf.release === true,
            onSelect: () => void library.changeShelf(shelf.id, { release: shelf.release !== true }),
          },
        ],
      ]
    : []),
  [
    {
      label: t('libraryPage.takeAway'),
      icon: 'i-lucide-trash-2',
      color: 'error' as const,
      disabled: shelf.reports.length > 0,
      onSelect: () => void library.removeShelf(shelf.id),
    },
  ],
]

function key(event: KeyboardEvent, report: Listed): void {
  if (event.metaKey || event.ctrlKey || event.altKey) return
  if (!edits(report) && event.key !== 'Enter') return
  const acts: Record<string, () => void> = {
    e: () => void navigateTo(`/reports/${report.id}/page`),
    c: () => void library.copy(report),
    F2: () => name('report', report.id, report.name),
    Delete: () => void away(report),
    Enter: () => void navigateTo(report.published === null ? `/reports/${report.id}/page` : `/run/${report.id}`),
  }
  const act = acts[event.key] ?? acts[event.key.toLowerCase()]
  if (!act) return
  event.preventDefault()
  act()
}

/** One that something stands on says so before it goes; any other goes at once, and can be brought back. */
const leaving = ref<{ report: Listed; uses: string }>()
async function away(report: Listed): Promise<void> {
  try {
    const uses = await library.usesOf(report)
    if (uses) leaving.value = { report, uses }
    else await library.putAway(report)
  } catch (error) {
    toast.add({ title: tell((error as Error).message), color: 'error' })
  }
}
async function leave(): Promise<void> {
  const { report } = leaving.value!
  leaving.value = undefined
  await library.putAway(report)
}

/** A report was dropped: on another shelf, or at another place of its own. */
function dropped(shelf: LibraryShelf, next: readonly Listed[]): void {
  const before = shelf.reports.map(each => each.id)
  const after = next.map(each => each.id)
  const moved =
    after.find(each => !before.includes(each)) ??
    after.find(each => after.filter(own => own !== each).join() === before.filter(own => own !== each).join())
  if (after.length < before.length || !moved || after.join() === before.join()) return
  void library.place(moved, shelf.id, after[after.indexOf(moved) + 1])
}
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar home>
      <UInput
        v-if="shelves?.some(shelf => shelf.reports.length)"
        v-model="search"
        size="sm"
        icon="i-lucide-search"
        class="w-60"
        :placeholder="t('libraryPage.findByNameTableOr')"
        :aria-label="t('libraryPage.findAReportByIts')"
        @keydown.esc="search = ''"
      />
      <template v-if="me.author"
        ><UButton size="sm" variant="outline" color="neutral" icon="i-lucide-square-plus" @click="name('new', '', '')">{{
          t('libraryPage.newShelf')
        }}</UButton>
        <ImportDefinition :shelf="shelves?.[0]?.name" />
        <UButton size="sm" icon="i-lucide-plus" to="/new">{{ t('common.newReport') }}</UButton></template
      >
    </TopBar>
    <Notice v-if="problem" :text="problem" kind="error"
      ><UButton size="xs" variant="outline" color="neutral" @click="load">{{ t('common.tryAgain') }}</UButton></Notice
    >
    <Notice v-if="leaving" :text="t('libraryPage.isInUse', { name: leaving.report.name, uses: leaving.uses })"
      ><UButton size="xs" color="error" @click="leave">{{ t('libraryPage.putItAway') }}</UButton
      ><UButton size="xs" variant="outline" color="neutral" @click="leaving = undefined">{{ t('common.keepIt') }}</UButton></Notice
    >
    <main
      class="grow overflow-auto px-11 py-5"
      @dragenter="event => holdsFiles(event) && !sources.list.length && navigateTo('/sources?add=files')"
    >
      <form v-if="naming?.what === 'new'" class="mb-6 flex items-center gap-2" @submit.prevent="named">
        <UInput
          ref="field"
          v-model="naming.name"
          :placeholder="t('libraryPage.nameOfTheShelf')"
          :aria-label="t('libraryPage.nameOfTheNewShelf')"
          @keydown.esc="naming = undefined"
        />
        <UButton type="submit" size="sm" :disabled="!naming.name.trim()">{{ t('libraryPage.putItUp') }}</UButton>
        <UButton size="sm" variant="ghost" color="neutral" @click="naming = undefined">{{ t('common.leaveIt') }}</UButton>
      </form>
      <p v-if="hits && !shown?.length" class="text-muted" role="status">{{ t('libraryPage.noReportIsCalledSo') }}</p>
      <section v-for="(shelf, at) in shown" :key="shelf.id" class="mb-8" :data-shelf="shelf.name">
        <div class="flex items-baseline justify-between">
          <form v-if="naming?.what === 'shelf' && naming.id === shelf.id" @submit.prevent="named">
            <UInput
              ref="field"
              v-model="naming.name"
              :aria-label="t('libraryPage.nameOfTheShelf2', { name: shelf.name })"
              @keydown.esc="naming = undefined"
              @blur="named"
            />
          </form>
          <h2 v-else class="flex items-center gap-1 font-display text-lg font-semibold">
            {{ shelf.name
            }}<UDropdownMenu v-if="!hits && me.author" :items="shelfMenu(shelf, at)"
              ><UButton
                size="xs"
                variant="ghost"
                color="neutral"
                icon="i-lucide-ellipsis"
                :aria-label="t('libraryPage.menuOfTheShelf', { name: shelf.name })"
            /></UDropdownMenu>
          </h2>
          <span v-if="teamName(shelf.team) || shelf.release" class="ml-3 mr-auto text-xs text-muted">{{
            [
              teamName(shelf.team) && t('libraryPage.ofTeam', { team: teamName(shelf.team) }),
              shelf.release && t('libraryPage.aSecondPersonReleases'),
            ]
              .filter(Boolean)
              .join(' · ')
          }}</span>
          <span class="text-sm text-muted">{{ shelf.reports.length }} {{ t('libraryPage.reportReports', shelf.reports.length) }}</span>
        </div>
        <VueDraggable
          :model-value="[...shelf.reports]"
          group="library"
          :animation="140"
          :delay="120"
          :delay-on-touch-only="true"
          :disabled="!!hits || !me.author"
          class="flex min-h-12 flex-wrap items-end gap-x-8 gap-y-3 border-b-[3px] px-2.5 pt-4"
          :style="{ borderColor: 'var(--shelf)' }"
          @update:model-value="dropped(shelf, $event)"
        >
          <a
            v-for="report in shelf.reports"
            :key="report.id"
            :href="leadsTo(report)"
            class="block transition-transform hover:-translate-y-0.5"
            :aria-label="
              edits(report)
                ? t('libraryPage.enterRunsItEEdits', { name: report.name })
                : t('libraryPage.enterRunsIt', { name: report.name })
            "
            @click.prevent="navigateTo(leadsTo(report))"
            @keydown="key($event, report)"
            ><Miniature :report="report.id" :version="report.version"
          /></a>
        </VueDraggable>
        <div class="flex flex-wrap gap-x-8 px-2.5 pt-2">
          <div v-for="report in shelf.reports" :key="report.id" class="w-[150px]">
            <div class="flex items-start justify-between gap-1">
              <form v-if="naming?.what === 'report' && naming.id === report.id" @submit.prevent="named">
                <UInput
                  ref="field"
                  v-model="naming.name"
                  size="xs"
                  :aria-label="t('libraryPage.nameOf', { name: report.name })"
                  @keydown.esc="naming = undefined"
                  @blur="named"
                />
              </form>
              <NuxtLink v-else :to="leadsTo(report)" class="font-semibold leading-snug hover:text-petrol-700 dark:hover:text-petrol-300">{{
                report.name
              }}</NuxtLink>
              <UDropdownMenu v-if="edits(report)" :items="menu(report, shelf)"
                ><UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-ellipsis"
                  :aria-label="t('libraryPage.menuOf', { name: report.name })"
                  class="-mr-1.5"
              /></UDropdownMenu>
            </div>
            <p v-if="found(report.id)" class="truncate text-xs text-apricot-800 dark:text-apricot-200" :title="found(report.id)">
              {{ found(report.id) }}
            </p>
            <div class="mt-0.5 flex items-center gap-2 text-xs text-muted">
              <span v-if="report.published === null">{{ t('libraryPage.notPublishedYet') }}</span>
              <span v-else-if="report.published === report.version">{{ t('libraryPage.published') }}</span>
              <span v-else>{{ t('libraryPage.draftAheadOfVersion', { published: report.published }) }}</span>
            </div>
            <button
              v-if="report.waiting !== undefined"
              class="mt-0.5 flex items-center gap-1 text-xs font-medium text-apricot-800 hover:underline dark:text-apricot-200"
              @click="audience = report"
            >
              <UIcon name="i-lucide-hourglass" class="size-3.5" />{{ t('libraryPage.versionWaits', { waiting: report.waiting }) }}
            </button>
            <UButton
              v-if="report.published !== null"
              size="xs"
              variant="soft"
              icon="i-lucide-play"
              class="mt-2"
              :to="`/run/${report.id}`"
              >{{ t('common.run') }}</UButton
            >
          </div>
        </div>
      </section>
      <ReportAudience
        v-if="audience"
        :id="audience.id"
        :name="audience.name"
        @close="
          () => {
            audience = undefined
            void load()
          }
        "
      />
      <FirstSteps
        v-if="shelves && !shelves.some(shelf => shelf.reports.length)"
        @files="navigateTo('/sources?add=files')"
        @server="navigateTo('/sources?add=server')"
      />
    </main>
  </div>
</template>
