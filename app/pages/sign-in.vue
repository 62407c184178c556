<script setup lang="ts">
const route = useRoute()
const me = useMe()
useHead({ title: t('signInPage.signInEstante') })
const said = reactive({ name: '', password: '', code: '' })
const problem = ref(String(route.query.said ?? '').slice(0, 300))
/** the password was right, and a code is wanted beside it */
const second = ref(false)
const busy = ref(false)
/** Only to a page of this server. */
const to = computed(() => {
  const asked = String(route.query.to ?? '/')
  return asked.startsWith('/') && !/^\/[/\\]/.test(asked) ? asked : '/'
})
onMounted(async () => {
  await me.read().catch(error => (problem.value = (error as Error).message))
  if (me.known && !me.closed && (!me.people || me.person)) await navigateTo(to.value, { replace: true })
})
const signIn = () => begin('/api/session', { name: said.name, password: said.password, ...(second.value ? { code: said.code } : {}) })
/** One of the demo's people, with a click. */
const pick = (person: string) => begin('/api/session/demo', { person })
async function begin(path: string, body: object): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    const found = await api<{ second?: boolean }>(path, { method: 'POST', body })
    if (found.second) {
      second.value = true
      busy.value = false
      return
    }
    // what was shown to nobody is read anew for somebody
    window.location.assign(to.value)
  } catch (error) {
    problem.value = (error as Error).message
    said.password = second.value ? said.password : ''
    said.code = ''
    busy.value = false
  }
}
</script>

<template>
  <div v-if="!me.known && !problem" />
  <SignInFrame v-else-if="me.closed" :title="t('signInPage.nobodyIsHereYet')" :words="t('signInPage.openTheLinkForThe')" />
  <SignInFrame v-else :title="t('signInPage.signIn')">
    <ul v-if="me.demo.length" class="mt-3 space-y-1.5" :aria-label="t('signInPage.peopleOfTheDemo')" data-demo-people>
      <li v-for="each in me.demo" :key="each.id">
        <UButton block variant="outline" color="neutral" class="justify-start" :disabled="busy" @click="pick(each.id)">
          <span class="font-semibold">{{ each.name }}</span>
          <span class="ml-auto text-muted">{{ [...each.teams, tell(each.role)].join(' · ') }}</span>
        </UButton>
      </li>
    </ul>
    <p v-if="me.demo.length" class="mt-3 text-sm text-muted">
      {{ t('signInPage.theyAreInventedAndOnly') }}
    </p>
    <UButton
      v-if="me.provider"
      block
      class="mt-4"
      icon="i-lucide-log-in"
      :to="`/oidc/start?to=${encodeURIComponent(to)}`"
      external
      data-provider
      >{{ t('signInPage.signInWith', { name: me.provider.name }) }}</UButton
    >
    <p v-if="problem && me.provider?.only" class="mt-3 text-sm text-error" role="alert">{{ tell(problem) }}</p>
    <form v-if="!me.provider?.only" class="mt-4 space-y-4" @submit.prevent="signIn">
      <UFormField :label="t('common.name')" required
        ><UInput
          v-model="said.name"
          class="w-full"
          autocomplete="username"
          :autofocus="!me.demo.length"
          :aria-label="t('common.name')"
          :disabled="busy"
      /></UFormField>
      <UFormField :label="t('common.password')" required
        ><UInput
          v-model="said.password"
          type="password"
          class="w-full"
          autocomplete="current-password"
          :aria-label="t('common.password')"
          :disabled="busy"
      /></UFormField>
      <UFormField v-if="second" :label="t('signInPage.code')" required :help="t('signInPage.fromTheProgramOnYour')"
        ><UInput
          v-model="said.code"
          class="w-full"
          autocomplete="one-time-code"
          autofocus
          :aria-label="t('signInPage.code')"
          :disabled="busy"
      /></UFormField>
      <p v-if="problem" class="text-sm text-error" role="alert">{{ tell(problem) }}</p>
      <UButton
        type="submit"
        block
        icon="i-lucide-log-in"
        :loading="busy"
        :disabled="!said.name || !said.password || (second && !said.code)"
        >{{ t('signInPage.signIn') }}</UButton
      >
    </form>
  </SignInFrame>
</template>
