<script setup lang="ts">
/** The first administrator, made by the link that the terminal printed. */
const route = useRoute()
useHead({ title: 'The first administrator · Estante' })
const said = reactive({ name: '', signIn: '', password: '' })
const problem = ref('')
const busy = ref(false)
async function make(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await api('/api/first', { method: 'POST', body: { key: String(route.query.key ?? ''), ...said } })
    window.location.assign('/people')
  } catch (error) {
    problem.value = (error as Error).message
    busy.value = false
  }
}
</script>

<template>
  <SignInFrame
    title="The first administrator"
    words="From now on everybody signs in. You add the others, and say what they may do; write your password down where you find it again."
  >
    <form class="mt-4 space-y-4" @submit.prevent="make">
      <UFormField label="Your name" required
        ><UInput v-model="said.name" class="w-full" autocomplete="name" autofocus aria-label="Your name"
      /></UFormField>
      <UFormField label="You sign in as" required help="A short name, or your mail address."
        ><UInput v-model="said.signIn" class="w-full" autocomplete="username" aria-label="You sign in as"
      /></UFormField>
      <UFormField label="Password" required help="12 characters or more."
        ><UInput v-model="said.password" type="password" class="w-full" autocomplete="new-password" aria-label="Password"
      /></UFormField>
      <p v-if="problem" class="text-sm text-error" role="alert">{{ problem }}</p>
      <UButton type="submit" block :loading="busy" :disabled="!said.name || !said.signIn || !said.password">Make me administrator</UButton>
    </form>
  </SignInFrame>
</template>
