<script setup lang="ts">
import type { PersonInfo, TeamInfo } from '../../core/api/people'

/** Teams: who is in each, and the lists that guards ask for. */
const { people } = defineProps<{ people: readonly PersonInfo[] }>()
const emit = defineEmits<{ changed: [] }>()
const teams = shallowRef<TeamInfo[]>([])
const problem = ref('')
/** the team that is being written; a new one has no id */
const editing = ref<{ id?: string; name: string; people: string[]; lists: { name: string; values: string[] }[] }>()
const fault = ref('')
const removing = shallowRef<TeamInfo>()
async function load(): Promise<void> {
  try {
    teams.value = await api<TeamInfo[]>('/api/teams')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
void load()
const options = computed(() => people.map(each => ({ value: each.id, label: each.name })))
const nameOf = (id: string) => people.find(each => each.id === id)?.name ?? ''
const named = (team: TeamInfo) => team.people.map(nameOf).filter(Boolean).sort().join(', ')
const lists = (team: TeamInfo) =>
  Object.entries(team.attributes).map(([name, values]) => `${name}: ${values.join(', ') || t('teamsList.nothingYet')}`)
function edit(team?: TeamInfo): void {
  fault.value = ''
  editing.value = team
    ? {
        id: team.id,
        name: team.name,
        people: [...team.people],
        lists: Object.entries(team.attributes).map(([name, values]) => ({ name, values: [...values] })),
      }
    : { name: '', people: [], lists: [] }
}
async function keep(): Promise<void> {
  const { id, name, people: members, lists: own } = editing.value!
  fault.value = ''
  const attributes = Object.fromEntries(own.filter(each => each.name.trim()).map(each => [each.name.trim(), each.values]))
  try {
    await api(id ? `/api/teams/${id}` : '/api/teams', { method: id ? 'PUT' : 'POST', body: { name, people: members, attributes } })
    editing.value = undefined
    await load()
    emit('changed')
  } catch (error) {
    fault.value = (error as Error).message
  }
}
async function remove(): Promise<void> {
  const { id } = removing.value!
  removing.value = undefined
  problem.value = ''
  try {
    await api(`/api/teams/${id}`, { method: 'DELETE' })
  } catch (error) {
    problem.value = (error as Error).message
  }
  await load()
  emit('changed')
}
</script>

<template>
  <section class="mt-8" :aria-label="t('common.teams')">
    <div class="mb-3 flex items-center gap-3">
      <h2 class="font-display text-lg font-semibold">{{ t('common.teams') }}</h2>
      <span class="text-sm text-muted">{{ t('teamsList.reportsArePublishedToThem') }}</span>
      <UButton v-if="!editing" size="sm" icon="i-lucide-users-round" class="ml-auto" @click="edit()">{{ t('teamsList.addATeam') }}</UButton>
    </div>
    <p v-if="problem" class="mb-2 text-sm text-error" role="alert">{{ tell(problem) }}</p>
    <form v-if="editing" class="mb-4 rounded-md border border-default bg-default p-4 text-sm" data-team-form @submit.prevent="keep">
      <div class="grid grid-cols-2 gap-3">
        <UFormField :label="t('common.name')" size="sm"
          ><UInput v-model="editing.name" size="sm" class="w-full" autofocus :aria-label="t('teamsList.nameOfTheTeam')" autocomplete="off"
        /></UFormField>
        <UFormField :label="t('teamsList.whoIsInIt')" size="sm"
          ><USelectMenu
            v-model="editing.people"
            :items="options"
            value-key="value"
            multiple
            size="sm"
            class="w-full"
            :aria-label="t('teamsList.whoIsInTheTeam')"
            :placeholder="t('teamsList.nobodyYet')"
        /></UFormField>
      </div>
      <h3 class="mb-1 mt-3 font-medium">{{ t('teamsList.whatGuardsMayAskOf') }}</h3>
      <div v-for="(list, at) in editing.lists" :key="at" class="mb-1.5 flex items-center gap-2">
        <span class="text-muted">person.</span
        ><UInput
          v-model="list.name"
          size="sm"
          class="w-40"
          :placeholder="t('teamsList.branches')"
          :aria-label="t('teamsList.nameOfList', { what: at + 1 })"
        />
        <UInputTags
          v-model="list.values"
          size="sm"
          class="grow"
          add-on-blur
          :placeholder="t('teamsList.aCodeThenEnter')"
          :aria-label="t('teamsList.codesOfList', { what: at + 1 })"
        />
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('teamsList.takeListOut', { what: at + 1 })"
          @click="editing.lists.splice(at, 1)"
        />
      </div>
      <UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-list-plus" @click="editing.lists.push({ name: '', values: [] })">{{
        t('teamsList.addAList')
      }}</UButton>
      <p v-if="fault" class="mt-2 text-error" role="alert">{{ tell(fault) }}</p>
      <div class="mt-3 flex gap-2">
        <UButton type="submit" size="sm" :disabled="!editing.name.trim()">{{ editing.id ? t('common.keep') : t('common.add') }}</UButton>
        <UButton size="sm" variant="ghost" color="neutral" @click="editing = undefined">{{ t('common.cancel') }}</UButton>
      </div>
    </form>
    <p v-if="!teams.length && !editing" class="text-sm text-muted">
      {{ t('teamsList.thereIsNoTeamYet') }}
    </p>
    <table
      v-else-if="teams.length"
      class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default text-sm"
      data-teams
    >
      <thead>
        <tr class="text-left text-muted">
          <th class="px-4 py-2 font-medium">{{ t('teamsList.team') }}</th>
          <th class="px-3 py-2 font-medium">{{ t('teamsList.whoIsInIt') }}</th>
          <th class="px-3 py-2 font-medium">{{ t('teamsList.whatGuardsMayAsk') }}</th>
          <th class="px-4 py-2" />
        </tr>
      </thead>
      <tbody>
        <tr v-for="team in teams" :key="team.id" class="[&>td]:border-t [&>td]:border-default" :data-team="team.name">
          <td class="px-4 py-2 font-semibold">{{ team.name }}</td>
          <td class="px-3 py-2">{{ named(team) || t('teamsList.nobodyYet') }}</td>
          <td class="px-3 py-2 text-muted">
            <span v-for="each in lists(team)" :key="each" class="mr-3">{{ each }}</span>
          </td>
          <td class="whitespace-nowrap px-4 py-2 text-right">
            <UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-pencil"
              :aria-label="t('teamsList.change', { name: team.name })"
              @click="edit(team)"
            />
            <UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-trash-2"
              :aria-label="t('teamsList.removeTheTeam', { name: team.name })"
              @click="removing = team"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <UModal
      :open="!!removing"
      :title="t('teamsList.removeTheTeam2', { what: removing?.name ?? '' })"
      :description="t('teamsList.itsPeopleStayWhatWas')"
      @update:open="open => open || (removing = undefined)"
    >
      <template #footer>
        <UButton color="error" @click="remove">{{ t('common.remove2') }}</UButton>
        <UButton variant="ghost" color="neutral" @click="removing = undefined">{{ t('common.keep') }}</UButton>
      </template>
    </UModal>
  </section>
</template>
