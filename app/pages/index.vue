<script setup lang="ts">
import type { LibraryShelf } from '../../core/api/answers'

const sources = useSources()
const shelves = ref<LibraryShelf[]>()
const problem = ref('')
const toast = useToast()
const chooser = useTemplateRef('chooser')
useHead({ title: 'Library · Estante' })

async function load(): Promise<void> {
  try {
    shelves.value = await api<LibraryShelf[]>('/api/library')
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
void load()
// what the miniatures are drawn with comes meanwhile
void paperFonts()

const menu = (report: LibraryShelf['reports'][number]) => [
  [
    {
      label: 'Run',
      icon: 'i-lucide-play',
      kbds: ['enter'],
      disabled: report.published === null,
      onSelect: () => navigateTo(`/run/${report.id}`),
    },
    { label: 'Edit', icon: 'i-lucide-pencil', kbds: ['E'], onSelect: () => navigateTo(`/reports/${report.id}/page`) },
    {
      label: 'Put away',
      icon: 'i-lucide-trash-2',
      color: 'error' as const,
      onSelect: () => {
        leaving.value = report
      },
    },
    { label: 'Export definition', icon: 'i-lucide-download', onSelect: () => void (location.href = `/api/reports/${report.id}/export`) },
  ],
]

function key(event: KeyboardEvent, report: LibraryShelf['reports'][number]): void {
  if (event.key === 'e' || event.key === 'E') void navigateTo(`/reports/${report.id}/page`)
  else if (event.key === 'Enter') {
    event.preventDefault()
    void navigateTo(report.published === null ? `/reports/${report.id}/page` : `/run/${report.id}`)
  }
}

const leaving = ref<LibraryShelf['reports'][number]>()
async function putAway(): Promise<void> {
  try {
    await api(`/api/reports/${leaving.value!.id}`, { method: 'DELETE' })
    leaving.value = undefined
    await load()
  } catch (error) {
    toast.add({ title: (error as Error).message, color: 'error' })
  }
}

async function importFile(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    const { id } = await api<{ id: string }>('/api/reports/import', {
      method: 'POST',
      body: { name: file.name.replace(/\.json$/i, ''), shelf: shelves.value?.[0]?.name ?? 'Imported', text: await file.text() },
    })
    await navigateTo(`/reports/${id}/page`)
  } catch (error) {
    toast.add({ title: (error as Error).message, color: 'error', duration: 10000 })
  }
}
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar home>
      <input ref="chooser" type="file" accept=".json,application/json" class="hidden" aria-label="Definition file" @change="importFile" />
      <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-upload" @click="chooser?.click()">Import definition</UButton>
      <UButton size="sm" icon="i-lucide-plus" to="/new">New report</UButton>
    </TopBar>
    <Notice v-if="problem" :text="problem" kind="error"
      ><UButton size="xs" variant="outline" color="neutral" @click="load">Try again</UButton></Notice
    >
    <Notice v-if="leaving" :text="`“${leaving.name}” goes with all its versions and pinned rows. Export it first to keep its definition.`"
      ><UButton size="xs" color="error" @click="putAway">Put it away</UButton
      ><UButton size="xs" variant="outline" color="neutral" @click="leaving = undefined">Keep it</UButton></Notice
    >
    <main
      class="grow overflow-auto px-11 py-5"
      @dragenter="event => holdsFiles(event) && !sources.list.length && navigateTo('/sources?add=files')"
    >
      <section v-for="shelf in shelves" :key="shelf.id" class="mb-8">
        <div class="flex items-baseline justify-between">
          <h2 class="font-display text-lg font-semibold">{{ shelf.name }}</h2>
          <span class="text-sm text-muted">{{ shelf.reports.length }} {{ shelf.reports.length === 1 ? 'report' : 'reports' }}</span>
        </div>
        <div class="flex flex-wrap items-end gap-x-8 gap-y-3 border-b-[3px] px-2.5 pt-4" :style="{ borderColor: 'var(--shelf)' }">
          <a
            v-for="report in shelf.reports"
            :key="report.id"
            :href="`/reports/${report.id}/page`"
            class="block transition-transform hover:-translate-y-0.5"
            :aria-label="`${report.name}: Enter runs it, E edits it`"
            @click.prevent="navigateTo(`/reports/${report.id}/page`)"
            @keydown="key($event, report)"
            ><Miniature :report="report.id" :version="report.version"
          /></a>
        </div>
        <div class="flex flex-wrap gap-x-8 px-2.5 pt-2">
          <div v-for="report in shelf.reports" :key="report.id" class="w-[150px]">
            <div class="flex items-start justify-between gap-1">
              <NuxtLink
                :to="`/reports/${report.id}/page`"
                class="font-semibold leading-snug hover:text-petrol-700 dark:hover:text-petrol-300"
                >{{ report.name }}</NuxtLink
              >
              <UDropdownMenu :items="menu(report)"
                ><UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-ellipsis"
                  :aria-label="`Menu of ${report.name}`"
                  class="-mr-1.5"
              /></UDropdownMenu>
            </div>
            <div class="mt-0.5 flex items-center gap-2 text-xs text-muted">
              <span v-if="report.published === null">not published yet</span>
              <span v-else-if="report.published === report.version">published</span>
              <span v-else>draft ahead of version {{ report.published }}</span>
            </div>
            <UButton v-if="report.published !== null" size="xs" variant="soft" icon="i-lucide-play" class="mt-2" :to="`/run/${report.id}`"
              >Run</UButton
            >
          </div>
        </div>
      </section>
      <FirstSteps
        v-if="shelves && !shelves.some(shelf => shelf.reports.length)"
        @files="navigateTo('/sources?add=files')"
        @server="navigateTo('/sources?add=server')"
      />
    </main>
  </div>
</template>
