<script setup lang="ts">
import { type Language, languageTags, type SessionInfo } from '../../core/api/people'

/** One's own password, and where one is signed in. */
const me = useMe()
useHead({ title: t('accountPage.myAccountEstante') })
const sessions = shallowRef<SessionInfo[]>([])
const problem = ref('')
const said = reactive({ before: '', password: '' })
const fault = ref('')
const toast = useToast()
const colorMode = useColorMode()
const spokenItems = languageTags.map(tag => ({ value: tag, label: languages[tag].name }))
async function choose(language: Language): Promise<void> {
  problem.value = ''
  try {
    await api('/api/me/language', { method: 'PUT', body: { language } })
    if (await speak(language)) window.location.reload()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const looks = [
  { value: 'light', label: t('accountPage.light') },
  { value: 'dark', label: t('accountPage.dark') },
  { value: 'system', label: t('accountPage.asThisMachine') },
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
    toast.add({ title: t('accountPage.yourPasswordIsChangedEverywhere') })
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
  const known = { Edg: t('accountPage.edge') } as Record<string, string>
  return name ? `${known[name] ?? name}${system ? `, ${system}` : ''}` : about || t('accountPage.unknownProgram')
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
            {{
              t('accountPage.signsInAs', {
                signIn: me.person.signIn,
                role: tell(me.person.role),
                what: me.person.teams.length ? t('accountPage.in', { map: me.person.teams.map(each => each.name).join(', ') }) : '',
              })
            }}
          </p>
        </div>
        <section v-if="me.password" class="rounded-md border border-default bg-default p-4 text-sm">
          <h2 class="font-semibold">{{ t('common.password') }}</h2>
          <form class="mt-3 flex items-end gap-3" @submit.prevent="change">
            <UFormField :label="t('accountPage.untilNow')" size="sm" class="grow"
              ><UInput
                v-model="said.before"
                type="password"
                size="sm"
                class="w-full"
                autocomplete="current-password"
                :aria-label="t('accountPage.thePasswordUntilNow')"
            /></UFormField>
            <UFormField :label="t('accountPage.fromNowOn12Characters')" size="sm" class="grow"
              ><UInput
                v-model="said.password"
                type="password"
                size="sm"
                class="w-full"
                autocomplete="new-password"
                :aria-label="t('accountPage.theNewPassword')"
            /></UFormField>
            <UButton type="submit" size="sm" :disabled="!said.before || !said.password">{{ t('accountPage.changeIt') }}</UButton>
          </form>
          <p v-if="fault" class="mt-2 text-error" role="alert">{{ tell(fault) }}</p>
        </section>
        <AccountSecond v-if="me.password" @problem="text => (problem = text)" />
        <section class="rounded-md border border-default bg-default p-4 text-sm">
          <h2 class="font-semibold">{{ t('accountPage.whereYouAreSignedIn') }}</h2>
          <table class="mt-2 w-full" data-sessions>
            <tbody>
              <tr v-for="session in sessions" :key="session.id" class="[&>td]:py-1.5">
                <td>
                  {{ program(session.about) }}<span v-if="session.own" class="ml-2 text-muted">{{ t('accountPage.thisOne') }}</span>
                </td>
                <td class="text-muted">{{ t('accountPage.used', { momentWords: momentWords(session.usedAt) }) }}</td>
                <td class="text-muted">{{ t('accountPage.since', { momentWords: momentWords(session.createdAt) }) }}</td>
                <td class="text-right">
                  <UButton size="xs" variant="outline" color="neutral" @click="end(session)">{{
                    session.own ? t('accountPage.signOut') : t('accountPage.endIt')
                  }}</UButton>
                </td>
              </tr>
            </tbody>
          </table>
        </section>
        <section class="rounded-md border border-default bg-default p-4 text-sm">
          <div class="mb-3 flex items-center gap-3">
            <h2 class="font-semibold">{{ t('accountPage.language') }}</h2>
            <USelect
              :model-value="spoken"
              :items="spokenItems"
              size="sm"
              class="ml-auto w-48"
              :aria-label="t('accountPage.languageOfTheInterface')"
              @update:model-value="tag => choose(tag as Language)"
            />
          </div>
          <div class="flex items-center gap-3">
            <h2 class="font-semibold">{{ t('common.look') }}</h2>
            <USelect
              v-model="colorMode.preference"
              :items="looks"
              size="sm"
              class="ml-auto w-48"
              :aria-label="t('accountPage.lightOrDark')"
            />
          </div>
        </section>
        <AccountTokens :role="me.person.role" @problem="text => (problem = text)" />
      </div>
      <p v-else-if="me.known" class="font-display text-lg">{{ t('accountPage.nobodySignsInToThis') }}</p>
    </main>
  </div>
</template>
