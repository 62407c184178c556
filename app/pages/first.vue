<script setup lang="ts">
/** The first administrator, made by the link that the terminal printed. */
const route = useRoute()
useHead({ title: t('firstPage.theFirstAdministratorEstante') })
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
  <SignInFrame :title="t('firstPage.theFirstAdministrator')" :words="t('firstPage.fromNowOnEverybodySigns')">
    <form class="mt-4 space-y-4" @submit.prevent="make">
      <UFormField :label="t('firstPage.yourName')" required
        ><UInput v-model="said.name" class="w-full" autocomplete="name" autofocus :aria-label="t('firstPage.yourName')"
      /></UFormField>
      <UFormField :label="t('firstPage.youSignInAs')" required :help="t('firstPage.aShortNameOrYour')"
        ><UInput v-model="said.signIn" class="w-full" autocomplete="username" :aria-label="t('firstPage.youSignInAs')"
      /></UFormField>
      <UFormField :label="t('common.password')" required :help="t('firstPage.12CharactersOrMore')"
        ><UInput v-model="said.password" type="password" class="w-full" autocomplete="new-password" :aria-label="t('common.password')"
      /></UFormField>
      <p v-if="problem" class="text-sm text-error" role="alert">{{ tell(problem) }}</p>
      <UButton type="submit" block :loading="busy" :disabled="!said.name || !said.signIn || !said.password">{{
        t('firstPage.makeMeAdministrator')
      }}</UButton>
    </form>
  </SignInFrame>
</template>
