<script setup lang="ts">
/** One's second factor: begun with a picture, shown to work by a code, and taken away again. */
const me = useMe()
const emit = defineEmits<{ problem: [text: string] }>()
const begun = shallowRef<{ secret: string; picture: string }>()
const code = ref('')
const password = ref('')
const leaving = ref(false)
const fault = ref('')
/** told once */
const recovery = shallowRef<string[]>([])
async function ask<T>(path: string, method: 'POST' | 'DELETE', body: object = {}): Promise<T | undefined> {
  fault.value = ''
  try {
    return await api<T>(path, { method, body })
  } catch (error) {
    fault.value = (error as Error).message
    return undefined
  }
}
async function begin(): Promise<void> {
  begun.value = await ask('/api/me/second', 'POST')
  if (fault.value) emit('problem', fault.value)
}
async function confirm(): Promise<void> {
  const found = await ask<{ codes: string[] }>('/api/me/second/confirm', 'POST', { code: code.value })
  code.value = ''
  if (!found) return
  recovery.value = found.codes
  begun.value = undefined
  await me.read()
}
async function leave(): Promise<void> {
  const done = await ask('/api/me/second', 'DELETE', { password: password.value, code: code.value })
  ;[code.value, password.value] = ['', '']
  if (!done) return
  leaving.value = false
  recovery.value = []
  await me.read()
}
/** The picture is of our own making, without any text of anybody's. */
const picture = computed(() => (begun.value ? `data:image/svg+xml,${encodeURIComponent(begun.value.picture)}` : ''))
const keepCodes = () => saveText(t('accountSecond.estanteRecoveryCodesTxt'), `${recovery.value.join('\n')}\n`)
</script>

<template>
  <section class="rounded-md border border-default bg-default p-4 text-sm" data-second>
    <div class="flex items-center">
      <h2 class="font-semibold">{{ t('accountSecond.secondFactor') }}</h2>
      <UButton
        v-if="!me.second && !begun"
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-smartphone"
        class="ml-auto"
        @click="begin"
        >{{ t('accountSecond.setItUp') }}</UButton
      >
      <UButton v-else-if="me.second && !leaving" size="xs" variant="outline" color="neutral" class="ml-auto" @click="leaving = true">{{
        t('accountSecond.takeItAway')
      }}</UButton>
    </div>
    <p v-if="!me.second && !begun" class="mt-1 text-muted">
      {{ t('accountSecond.noneWithOneACode') }}
    </p>
    <p v-else-if="me.second && !recovery.length && !leaving" class="mt-1 text-muted">
      {{ t('accountSecond.aCodeIsAskedFor') }}
    </p>
    <div v-if="begun" class="mt-3 flex gap-4">
      <img :src="picture" :alt="t('accountSecond.theSecretAsACode')" class="size-40 rounded bg-white" />
      <form class="space-y-3" @submit.prevent="confirm">
        <p>{{ t('accountSecond.takeThisPictureWithA') }}</p>
        <p class="font-mono text-xs" data-secret>{{ begun.secret }}</p>
        <div class="flex items-end gap-2">
          <UFormField :label="t('accountSecond.code')" size="sm"
            ><UInput
              v-model="code"
              size="sm"
              inputmode="numeric"
              autocomplete="one-time-code"
              class="w-32"
              :aria-label="t('accountSecond.code')"
          /></UFormField>
          <UButton type="submit" size="sm" :disabled="!code.trim()">{{ t('accountSecond.itWorks') }}</UButton>
          <UButton size="sm" variant="ghost" color="neutral" @click="begun = undefined">{{ t('common.leaveIt') }}</UButton>
        </div>
      </form>
    </div>
    <div v-if="recovery.length" class="mt-3 space-y-2 rounded-md border border-petrol-600 p-3" role="status">
      <p class="font-semibold">{{ t('accountSecond.keepTheseCodesEachLets') }}</p>
      <ul class="grid grid-cols-2 gap-x-6 font-mono" data-recovery>
        <li v-for="each in recovery" :key="each">{{ each }}</li>
      </ul>
      <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-download" @click="keepCodes">{{
        t('accountSecond.asAFile')
      }}</UButton>
    </div>
    <form v-if="leaving" class="mt-3 flex items-end gap-2" @submit.prevent="leave">
      <UFormField :label="t('common.password')" size="sm"
        ><UInput v-model="password" type="password" size="sm" autocomplete="current-password" :aria-label="t('accountSecond.yourPassword')"
      /></UFormField>
      <UFormField :label="t('accountSecond.codeOrARecoveryCode')" size="sm"
        ><UInput v-model="code" size="sm" autocomplete="one-time-code" class="w-48" :aria-label="t('accountSecond.codeOrRecoveryCode')"
      /></UFormField>
      <UButton type="submit" size="sm" color="error" :disabled="!password || !code.trim()">{{ t('accountSecond.takeItAway') }}</UButton>
      <UButton size="sm" variant="ghost" color="neutral" @click="leaving = false">{{ t('common.keepIt') }}</UButton>
    </form>
    <p v-if="fault" class="mt-2 text-error" role="alert">{{ tell(fault) }}</p>
  </section>
</template>
