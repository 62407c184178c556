<script setup lang="ts">
import type { Team } from '../../core/api/people'

/** Who signs people in beside Estante: another program of the company, by OpenID Connect. */
interface Said {
  name: string
  issuer: string
  clientId: string
  claim: string
  teams: Record<string, string>
  adds: boolean
  only: boolean
}
const kept = shallowRef<{ version: number; callback: string; settings?: Said }>()
const editing = ref(false)
const said = reactive({ name: '', issuer: '', clientId: '', secret: '', claim: 'groups', adds: false, only: false })
const groups = ref<{ group: string; team: string }[]>([])
const teams = shallowRef<Team[]>([])
const problem = ref('')
const busy = ref(false)
async function load(): Promise<void> {
  try {
    ;[kept.value, teams.value] = await Promise.all([api<NonNullable<typeof kept.value>>('/api/provider'), api<Team[]>('/api/teams')])
  } catch (error) {
    problem.value = (error as Error).message
  }
}
void load()
function edit(): void {
  const { settings } = kept.value!
  problem.value = ''
  Object.assign(said, { name: '', issuer: '', clientId: '', claim: 'groups', adds: false, only: false, ...settings, secret: '' })
  groups.value = Object.entries(settings?.teams ?? {}).map(([group, team]) => ({ group, team }))
  editing.value = true
}
async function keep(settings: object): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await api('/api/provider', { method: 'PUT', body: { basedOn: kept.value!.version, settings } })
    editing.value = false
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
  busy.value = false
}
const save = () => {
  const { secret, name, issuer, clientId, claim, adds, only } = said
  const known = Object.fromEntries(groups.value.filter(each => each.group.trim() && each.team).map(each => [each.group.trim(), each.team]))
  return keep({ name, issuer: issuer.trim(), clientId: clientId.trim(), claim: claim.trim(), adds, only, teams: known, secret })
}
</script>

<template>
  <section v-if="kept" class="mt-8" aria-label="Signing in elsewhere" data-provider>
    <div class="mb-3 flex items-center gap-3">
      <h2 class="font-display text-lg font-semibold">Signing in elsewhere</h2>
      <span class="text-sm text-muted">by OpenID Connect, with an account that people have already</span>
      <UButton v-if="!editing" size="sm" variant="outline" color="neutral" class="ml-auto" @click="edit">{{
        kept.settings ? 'Change it' : 'Set it up'
      }}</UButton>
    </div>
    <p v-if="!editing" class="text-sm text-muted">
      {{
        kept.settings
          ? `${kept.settings.name} signs people in${kept.settings.only ? ', and nobody signs in by password' : ' beside passwords'}.`
          : 'Nobody but Estante itself signs people in.'
      }}
    </p>
    <form v-else class="rounded-md border border-default bg-default p-4 text-sm" @submit.prevent="save">
      <div class="grid grid-cols-2 gap-3">
        <UFormField label="What the button says" size="sm"
          ><UInput v-model="said.name" size="sm" class="w-full" placeholder="Company account" aria-label="What the button says"
        /></UFormField>
        <UFormField label="Its address (issuer)" size="sm"
          ><UInput v-model="said.issuer" size="sm" class="w-full" placeholder="https://sign-in.harbour.example" aria-label="Its address"
        /></UFormField>
        <UFormField label="What it calls Estante (client id)" size="sm"
          ><UInput v-model="said.clientId" size="sm" class="w-full" aria-label="Client id" autocomplete="off"
        /></UFormField>
        <UFormField :label="kept.settings ? 'Its secret, where it is another now' : 'The secret that it has given'" size="sm"
          ><UInput v-model="said.secret" type="password" size="sm" class="w-full" aria-label="Client secret" autocomplete="off"
        /></UFormField>
      </div>
      <p class="mt-2 text-muted">
        There, allow it to lead back to <code class="font-mono">{{ kept.callback }}</code>
      </p>
      <div class="mt-3 flex items-center gap-2">
        <span>Teams by the claim</span>
        <UInput v-model="said.claim" size="sm" class="w-36" aria-label="Claim with the groups of a person" />
      </div>
      <div v-for="(each, at) in groups" :key="at" class="mt-1.5 flex items-center gap-2">
        <UInput v-model="each.group" size="sm" class="w-56" placeholder="its group" :aria-label="`Group ${at + 1}`" />
        <UIcon name="i-lucide-arrow-right" class="size-4 text-muted" />
        <USelect
          v-model="each.team"
          :items="teams.map(team => ({ value: team.id, label: team.name }))"
          size="sm"
          class="w-56"
          placeholder="our team"
          :aria-label="`Team of group ${at + 1}`"
        />
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="`Take group ${at + 1} out`"
          @click="groups.splice(at, 1)"
        />
      </div>
      <UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-list-plus" @click="groups.push({ group: '', team: '' })"
        >Add a group</UButton
      >
      <div class="mt-3 space-y-2">
        <USwitch v-model="said.adds" size="sm" label="Whoever it knows and we do not is added as a reader" />
        <USwitch v-model="said.only" size="sm" label="Nobody signs in by password any more" />
      </div>
      <p v-if="problem" class="mt-2 text-error" role="alert">{{ problem }}</p>
      <div class="mt-3 flex gap-2">
        <UButton type="submit" size="sm" :loading="busy" :disabled="!said.name || !said.issuer || !said.clientId">Keep</UButton>
        <UButton size="sm" variant="ghost" color="neutral" @click="editing = false">Cancel</UButton>
        <UButton v-if="kept.settings" size="sm" variant="ghost" color="error" class="ml-auto" :loading="busy" @click="keep({})"
          >Let it go</UButton
        >
      </div>
    </form>
    <p v-if="problem && !editing" class="mt-2 text-sm text-error" role="alert">{{ problem }}</p>
  </section>
</template>
