<script setup lang="ts">
const route = useRoute()
const me = useMe()
useHead({ title: 'Sign in · Estante' })
const said = reactive({ name: '', password: '' })
const problem = ref('')
const busy = ref(false)
/** Only to a page of this server. */
const to = computed(() => {
  const asked = String(route.query.to ?? '/')
  return asked.startsWith('/') && !/^\/[/\\]/.test(asked) ? asked : '/'
})
onMounted(async () => {
  await me.read().catch(error => (problem.value = (error as Error).message))
  if (me.known && (!me.people || me.person)) await navigateTo(to.value, { replace: true })
})
async function signIn(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await api('/api/session', { method: 'POST', body: { ...said } })
    // what was shown to nobody is read anew for somebody
    window.location.assign(to.value)
  } catch (error) {
    problem.value = (error as Error).message
    said.password = ''
    busy.value = false
  }
}
</script>

<template>
  <SignInFrame title="Sign in">
    <form class="mt-4 space-y-4" @submit.prevent="signIn">
      <UFormField label="Name" required
        ><UInput v-model="said.name" class="w-full" autocomplete="username" autofocus aria-label="Name" :disabled="busy"
      /></UFormField>
      <UFormField label="Password" required
        ><UInput
          v-model="said.password"
          type="password"
          class="w-full"
          autocomplete="current-password"
          aria-label="Password"
          :disabled="busy"
      /></UFormField>
      <p v-if="problem" class="text-sm text-error" role="alert">{{ problem }}</p>
      <UButton type="submit" block icon="i-lucide-log-in" :loading="busy" :disabled="!said.name || !said.password">Sign in</UButton>
    </form>
  </SignInFrame>
</template>
