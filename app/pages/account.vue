<script setup lang="ts">
import type { SessionInfo } from '../../core/api/people'

/** One's own password, and where one is signed in. */
const me = useMe()
useHead({ title: 'My account · Estante' })
const sessions = shallowRef<SessionInfo[]>([])
const problem = ref('')
const said = reactive({ before: '', password: '' })
const fault = ref('')
const toast = useToast()
const colorMode = useColorMode()
const looks = [
  { value: 'light', label: 'light' },
  { value: 'dark', label: 'dark' },
  { value: 'system', label: 'as this machine' },
]
async function load(): Promise<void> {
  try {
    if (!me.known) await me.read()
    sessions.value = await api<SessionInfo[]>('/api/sessions')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
void load()
async function change(): Promise<void> {
  fault.value = ''
  try {
    await api('/api/me/password', { method: 'PUT', body: { ...said } })
    Object.assign(said, { before: '', password: '' })
    toast.add({ title: 'Your password is changed; everywhere else you are signed out.' })
    await load()
  } catch (error) {
    fault.value = (error as Error).message
  }
}
async function end(session: SessionInfo): Promise<void> {
  try {
    await api(`/api/sessions/${session.id}`, { method: 'DELETE' })
    if (session.own) window.location.assign('/sign-in')
    else await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
/** What a browser calls itself, as people say it. */
function program(about: string): string {
  const name = /Firefox|Edg|Chrome|Safari/.exec(about)?.[0]
  const system = /Windows|Mac OS|Android|iPhone|Linux/.exec(about)?.[0]
  const known = { Edg: 'Edge' } as Record<string, string>
  return name ? `${known[name] ?? name}${system ? `, ${system}` : ''}` : about || 'unknown program'
}
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar home />
    <Notice v-if="problem" :text="problem" kind="error" />
    <main class="desk grow px-10 py-6">
      <div v-if="me.person" class="max-w-2xl space-y-6">
        <div>
          <h1 class="font-display text-lg font-semibold">{{ me.person.name }}</h1>
          <p class="text-sm text-muted">
            signs in as {{ me.person.signIn }} · {{ me.person.role
            }}{{ me.person.teams.length ? ` · in ${me.person.teams.map(each => each.name).join(', ')}` : '' }}
          </p>
        </div>
        <section v-if="me.password" class="rounded-md border border-default bg-default p-4 text-sm">
          <h2 class="font-semibold">Password</h2>
          <form class="mt-3 flex items-end gap-3" @submit.prevent="change">
            <UFormField label="Until now" size="sm" class="grow"
              ><UInput
                v-model="said.before"
                type="password"
                size="sm"
                class="w-full"
                autocomplete="current-password"
                aria-label="The password until now"
            /></UFormField>
            <UFormField label="From now on, 12 characters or more" size="sm" class="grow"
              ><UInput
                v-model="said.password"
                type="password"
                size="sm"
                class="w-full"
                autocomplete="new-password"
                aria-label="The new password"
            /></UFormField>
            <UButton type="submit" size="sm" :disabled="!said.before || !said.password">Change it</UButton>
          </form>
          <p v-if="fault" class="mt-2 text-error" role="alert">{{ fault }}</p>
        </section>
        <AccountSecond v-if="me.password" @problem="text => (problem = text)" />
        <section class="rounded-md border border-default bg-default p-4 text-sm">
          <h2 class="font-semibold">Where you are signed in</h2>
          <table class="mt-2 w-full" data-sessions>
            <tbody>
              <tr v-for="session in sessions" :key="session.id" class="[&>td]:py-1.5">
                <td>{{ program(session.about) }}<span v-if="session.own" class="ml-2 text-muted">this one</span></td>
                <td class="text-muted">used {{ momentWords(session.usedAt) }}</td>
                <td class="text-muted">since {{ momentWords(session.createdAt) }}</td>
                <td class="text-right">
                  <UButton size="xs" variant="outline" color="neutral" @click="end(session)">{{
                    session.own ? 'Sign out' : 'End it'
                  }}</UButton>
                </td>
              </tr>
            </tbody>
          </table>
        </section>
        <section class="rounded-md border border-default bg-default p-4 text-sm">
          <div class="flex items-center gap-3">
            <h2 class="font-semibold">Look</h2>
            <USelect v-model="colorMode.preference" :items="looks" size="sm" class="ml-auto w-48" aria-label="Light or dark" />
          </div>
        </section>
        <AccountTokens :role="me.person.role" @problem="text => (problem = text)" />
      </div>
      <p v-else-if="me.known" class="font-display text-lg">Nobody signs in to this demo; whoever sits at this machine may do everything.</p>
    </main>
  </div>
</template>
