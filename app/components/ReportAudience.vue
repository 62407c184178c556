<script setup lang="ts">
import type { Team } from '../../core/api/people'
import type { Publication, ReportAudience } from '../../core/api/publishing'

/** To whom a report is published, who edits it, and what was published when, by whom, with what had changed. */
const { id, name } = defineProps<{ id: string; name: string }>()
const emit = defineEmits<{ close: []; published: [version: number] }>()
const audience = ref<ReportAudience>()
const teams = shallowRef<Pick<Team, 'id' | 'name'>[]>([])
const history = shallowRef<Publication[]>([])
const changes = shallowRef<string[]>([])
const problem = ref('')
const busy = ref(false)
const of = (rest: string) => `/api/reports/${id}/${rest}`
async function load(): Promise<void> {
  try {
    const [own, list, told] = await Promise.all([
      api<ReportAudience>(of('audience')),
      api<Team[]>('/api/teams'),
      api<{ history: Publication[]; changes: string[] }>(of('publish')),
    ])
    audience.value = own
    teams.value = list
    history.value = told.history
    changes.value = told.changes
  } catch (error) {
    problem.value = (error as Error).message
  }
}
void load()
const options = computed(() => teams.value.map(each => ({ value: each.id, label: each.name })))
const runs = [
  { value: 'all', label: 'everybody' },
  { value: 'teams', label: 'teams' },
]
const edits = [
  { value: 'all', label: 'all authors' },
  { value: 'teams', label: 'authors of teams' },
  { value: 'owner', label: 'only whoever made it' },
]
async function change(part: Partial<ReportAudience>): Promise<void> {
  const { owner: _, ...said } = { ...audience.value!, ...part }
  problem.value = ''
  try {
    await api(of('audience'), { method: 'PUT', body: said })
  } catch (error) {
    problem.value = (error as Error).message
  }
  await load()
}
const waiting = computed(() => history.value.find(each => each.state === 'waiting'))
async function decide(released: boolean): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    const { published } = await api<{ published?: number }>(of('publish/decide'), { method: 'POST', body: { released } })
    if (published !== undefined) emit('published', published)
  } catch (error) {
    problem.value = (error as Error).message
  }
  busy.value = false
  await load()
}
const states = {
  waiting: 'waits for a second person',
  published: 'published',
  refused: 'refused',
  overtaken: 'overtaken by a later one',
} as const
</script>

<template>
  <USlideover
    :open="true"
    :title="name"
    description="Who runs and edits it, and what was published"
    :ui="{ content: 'max-w-lg' }"
    @update:open="open => open || emit('close')"
  >
    <template #body>
      <div class="space-y-5 text-sm" data-audience>
        <p v-if="problem" class="text-error" role="alert">{{ problem }}</p>
        <section
          v-if="waiting"
          class="rounded-md border border-apricot-300 bg-apricot-50 p-3 dark:border-apricot-800 dark:bg-apricot-950"
          data-waiting
        >
          <p class="font-semibold">Version {{ waiting.version }} waits to be released.</p>
          <p class="text-muted">
            {{ waiting.by ?? 'Somebody' }} asked for it, {{ momentWords(waiting.at) }}. Readers run what was published before.
          </p>
          <ul class="ml-4 mt-1 list-disc">
            <li v-for="each in waiting.changes" :key="each">{{ each }}</li>
          </ul>
          <div class="mt-2 flex gap-2">
            <UButton size="xs" icon="i-lucide-check" :loading="busy" @click="decide(true)">Release</UButton>
            <UButton size="xs" variant="outline" color="neutral" :loading="busy" @click="decide(false)">Refuse</UButton>
          </div>
        </section>
        <section v-if="audience" class="space-y-3">
          <div>
            <h3 class="mb-1 font-semibold">Who runs it</h3>
            <div class="flex gap-2">
              <USelect
                :model-value="audience.toAll ? 'all' : 'teams'"
                :items="runs"
                size="sm"
                class="w-36"
                aria-label="Who runs it"
                @update:model-value="(value: string) => change({ toAll: value === 'all' })"
              />
              <USelectMenu
                v-if="!audience.toAll"
                :model-value="audience.teams"
                :items="options"
                value-key="value"
                multiple
                size="sm"
                class="grow"
                placeholder="no team yet: its authors only"
                aria-label="Teams that run it"
                @update:model-value="(list: string[]) => change({ teams: list })"
              />
            </div>
          </div>
          <div>
            <h3 class="mb-1 font-semibold">Who edits it</h3>
            <div class="flex gap-2">
              <USelect
                :model-value="audience.editing"
                :items="edits"
                size="sm"
                class="w-44"
                aria-label="Who edits it"
                @update:model-value="(editing: string) => change({ editing: editing as ReportAudience['editing'] })"
              />
              <USelectMenu
                v-if="audience.editing === 'teams'"
                :model-value="audience.editors"
                :items="options"
                value-key="value"
                multiple
                size="sm"
                class="grow"
                placeholder="no team yet"
                aria-label="Teams that edit it"
                @update:model-value="(list: string[]) => change({ editors: list })"
              />
            </div>
            <p v-if="audience.owner" class="mt-1 text-muted">
              {{ audience.owner }} made it and edits it in any case, as administrators do.
            </p>
          </div>
        </section>
        <section v-if="changes.length">
          <h3 class="mb-1 font-semibold">What publishing the draft would change</h3>
          <ul class="ml-4 list-disc text-muted">
            <li v-for="each in changes" :key="each">{{ each }}</li>
          </ul>
        </section>
        <section v-if="history.length">
          <h3 class="mb-1 font-semibold">What was published</h3>
          <ol class="space-y-2">
            <li v-for="each in history" :key="each.at" class="border-l-2 border-default pl-3">
              <p>
                <span class="font-medium">Version {{ each.version }}</span> {{ states[each.state]
                }}<span class="text-muted"
                  >, {{ momentWords(each.at) }}<template v-if="each.by"> by {{ each.by }}</template
                  ><template v-if="each.second"
                    >; {{ each.state === 'refused' ? 'refused' : 'released' }} by {{ each.second }}</template
                  ></span
                >
              </p>
              <ul class="ml-4 list-disc text-muted">
                <li v-for="sentence in each.changes" :key="sentence">{{ sentence }}</li>
              </ul>
            </li>
          </ol>
        </section>
      </div>
    </template>
  </USlideover>
</template>
