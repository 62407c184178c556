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
  <section v-if="kept" class="mt-8" :aria-label="t('providerSettings.signingInElsewhere')" data-provider>
    <div class="mb-3 flex items-center gap-3">
      <h2 class="font-display text-lg font-semibold">{{ t('providerSettings.signingInElsewhere') }}</h2>
      <span class="text-sm text-muted">{{ t('providerSettings.byOpenidConnectWithAn') }}</span>
      <UButton v-if="!editing" size="sm" variant="outline" color="neutral" class="ml-auto" @click="edit">{{
        kept.settings ? t('providerSettings.changeIt') : t('providerSettings.setItUp')
      }}</UButton>
    </div>
    <p v-if="!editing" class="text-sm text-muted">
      {{
        kept.settings
          ? t('providerSettings.signsPeopleIn', {
              name: kept.settings.name,
              what: kept.settings.only ? t('providerSettings.andNobodySignsInBy') : t('providerSettings.besidePasswords'),
            })
          : t('providerSettings.nobodyButEstanteItselfSigns')
      }}
    </p>
    <form v-else class="rounded-md border border-default bg-default p-4 text-sm" @submit.prevent="save">
      <div class="grid grid-cols-2 gap-3">
        <UFormField :label="t('providerSettings.whatTheButtonSays')" size="sm"
          ><UInput
            v-model="said.name"
            size="sm"
            class="w-full"
            :placeholder="t('providerSettings.companyAccount')"
            :aria-label="t('providerSettings.whatTheButtonSays')"
        /></UFormField>
        <UFormField :label="t('providerSettings.itsAddressIssuer')" size="sm"
          ><UInput
            v-model="said.issuer"
            size="sm"
            class="w-full"
            placeholder="https://sign-in.harbour.example"
            :aria-label="t('providerSettings.itsAddress')"
        /></UFormField>
        <UFormField :label="t('providerSettings.whatItCallsEstanteClient')" size="sm"
          ><UInput v-model="said.clientId" size="sm" class="w-full" :aria-label="t('providerSettings.clientId')" autocomplete="off"
        /></UFormField>
        <UFormField :label="kept.settings ? t('providerSettings.itsSecretWhereItIs') : t('providerSettings.theSecretThatItHas')" size="sm"
          ><UInput
            v-model="said.secret"
            type="password"
            size="sm"
            class="w-full"
            :aria-label="t('providerSettings.clientSecret')"
            autocomplete="off"
        /></UFormField>
      </div>
      <p class="mt-2 text-muted">
        {{ t('providerSettings.thereAllowItToLead') }} <code class="font-mono">{{ kept.callback }}</code>
      </p>
      <div class="mt-3 flex items-center gap-2">
        <span>{{ t('providerSettings.teamsByTheClaim') }}</span>
        <UInput v-model="said.claim" size="sm" class="w-36" :aria-label="t('providerSettings.claimWithTheGroupsOf')" />
      </div>
      <div v-for="(each, at) in groups" :key="at" class="mt-1.5 flex items-center gap-2">
        <UInput
          v-model="each.group"
          size="sm"
          class="w-56"
          :placeholder="t('providerSettings.itsGroup')"
          :aria-label="t('providerSettings.group', { what: at + 1 })"
        />
        <UIcon name="i-lucide-arrow-right" class="size-4 text-muted" />
        <USelect
          v-model="each.team"
          :items="teams.map(team => ({ value: team.id, label: team.name }))"
          size="sm"
          class="w-56"
          :placeholder="t('providerSettings.ourTeam')"
          :aria-label="t('providerSettings.teamOfGroup', { what: at + 1 })"
        />
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('providerSettings.takeGroupOut', { what: at + 1 })"
          @click="groups.splice(at, 1)"
        />
      </div>
      <UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-list-plus" @click="groups.push({ group: '', team: '' })">{{
        t('providerSettings.addAGroup')
      }}</UButton>
      <div class="mt-3 space-y-2">
        <USwitch v-model="said.adds" size="sm" :label="t('providerSettings.whoeverItKnowsAndWe')" />
        <USwitch v-model="said.only" size="sm" :label="t('providerSettings.nobodySignsInByPassword')" />
      </div>
      <p v-if="problem" class="mt-2 text-error" role="alert">{{ tell(problem) }}</p>
      <div class="mt-3 flex gap-2">
        <UButton type="submit" size="sm" :loading="busy" :disabled="!said.name || !said.issuer || !said.clientId">{{
          t('common.keep')
        }}</UButton>
        <UButton size="sm" variant="ghost" color="neutral" @click="editing = false">{{ t('common.cancel') }}</UButton>
        <UButton v-if="kept.settings" size="sm" variant="ghost" color="error" class="ml-auto" :loading="busy" @click="keep({})">{{
          t('providerSettings.letItGo')
        }}</UButton>
      </div>
    </form>
    <p v-if="problem && !editing" class="mt-2 text-sm text-error" role="alert">{{ tell(problem) }}</p>
  </section>
</template>
