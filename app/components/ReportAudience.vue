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
  { value: 'all', label: t('reportAudience.everybody') },
  { value: 'teams', label: t('reportAudience.teams') },
]
const edits = [
  { value: 'all', label: t('reportAudience.allAuthors') },
  { value: 'teams', label: t('reportAudience.authorsOfTeams') },
  { value: 'owner', label: t('reportAudience.onlyWhoeverMadeIt') },
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
  waiting: t('reportAudience.waitsForASecondPerson'),
  published: t('reportAudience.published'),
  refused: t('reportAudience.refused'),
  overtaken: t('reportAudience.overtakenByALaterOne'),
} as const
</script>

<template>
  <USlideover
    :open="true"
    :title="name"
    :description="t('reportAudience.whoRunsAndEditsIt')"
    :ui="{ content: 'max-w-lg' }"
    @update:open="open => open || emit('close')"
  >
    <template #body>
      <div class="space-y-5 text-sm" data-audience>
        <p v-if="problem" class="text-error" role="alert">{{ tell(problem) }}</p>
        <section
          v-if="waiting"
          class="rounded-md border border-apricot-300 bg-apricot-50 p-3 dark:border-apricot-800 dark:bg-apricot-950"
          data-waiting
        >
          <p class="font-semibold">{{ t('reportAudience.versionWaitsToBeReleased', { version: waiting.version }) }}</p>
          <p class="text-muted">
            {{
              t('reportAudience.askedForItReadersRun', {
                what: waiting.by ?? t('reportAudience.somebody'),
                momentWords: momentWords(waiting.at),
              })
            }}
          </p>
          <ul class="ml-4 mt-1 list-disc">
            <li v-for="each in waiting.changes" :key="each">{{ tell(each) }}</li>
          </ul>
          <div class="mt-2 flex gap-2">
            <UButton size="xs" icon="i-lucide-check" :loading="busy" @click="decide(true)">{{ t('reportAudience.release') }}</UButton>
            <UButton size="xs" variant="outline" color="neutral" :loading="busy" @click="decide(false)">{{
              t('reportAudience.refuse')
            }}</UButton>
          </div>
        </section>
        <section v-if="audience" class="space-y-3">
          <AudienceChoice
            :title="t('reportAudience.whoRunsIt')"
            :choice="audience.toAll ? 'all' : 'teams'"
            :choices="runs"
            :teams="audience.teams"
            :options="options"
            :teams-title="t('reportAudience.teamsThatRunIt')"
            :none="t('reportAudience.noTeamYetItsAuthors')"
            @choose="choice => change({ toAll: choice === 'all' })"
            @teams="teams => change({ teams })"
          />
          <AudienceChoice
            :title="t('reportAudience.whoEditsIt')"
            :choice="audience.editing"
            :choices="edits"
            :teams="audience.editors"
            :options="options"
            :teams-title="t('reportAudience.teamsThatEditIt')"
            :none="t('reportAudience.noTeamYet')"
            @choose="choice => change({ editing: choice as ReportAudience['editing'] })"
            @teams="editors => change({ editors })"
          >
            <p v-if="audience.owner" class="mt-1 text-muted">{{ t('reportAudience.madeItAndEditsIt', { owner: audience.owner }) }}</p>
          </AudienceChoice>
        </section>
        <section v-if="changes.length">
          <h3 class="mb-1 font-semibold">{{ t('reportAudience.whatPublishingTheDraftWould') }}</h3>
          <ul class="ml-4 list-disc text-muted">
            <li v-for="each in changes" :key="each">{{ tell(each) }}</li>
          </ul>
        </section>
        <section v-if="history.length">
          <h3 class="mb-1 font-semibold">{{ t('reportAudience.whatWasPublished') }}</h3>
          <ol class="space-y-2">
            <li v-for="each in history" :key="each.at" class="border-l-2 border-default pl-3">
              <p>
                <span class="font-medium">{{ t('reportAudience.version', { version: each.version }) }}</span> {{ states[each.state]
                }}<span class="text-muted"
                  >, {{ momentWords(each.at) }}<template v-if="each.by">{{ t('reportAudience.by', { by: each.by }) }}</template
                  ><template v-if="each.second">{{
                    t('reportAudience.by2', {
                      what: each.state === 'refused' ? t('reportAudience.refused') : t('reportAudience.released'),
                      second: each.second,
                    })
                  }}</template></span
                >
              </p>
              <ul class="ml-4 list-disc text-muted">
                <li v-for="sentence in each.changes" :key="sentence">{{ tell(sentence) }}</li>
              </ul>
            </li>
          </ol>
        </section>
      </div>
    </template>
  </USlideover>
</template>
