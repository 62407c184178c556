<script setup lang="ts">
import type { MailSettings } from '../../../core/pack/outside'

/** The mail server that letters go to; as long as none is named they stay in the outbox. */
type Kept = { version: number; settings?: MailSettings & { hasPassword?: boolean } }
const kept = shallowRef<Kept>()
const editing = ref(false)
const said = reactive({
  host: '',
  port: 587,
  security: 'starttls' as MailSettings['security'],
  user: '',
  password: '',
  from: '',
  perMinute: 0,
})
const problem = ref('')
const busy = ref(false)
const toast = useToast()
async function load(): Promise<void> {
  try {
    kept.value = await api<Kept>('/api/mail')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
function edit(): void {
  problem.value = ''
  answered.value = undefined
  const { hasPassword: _, ...settings } = kept.value?.settings ?? {}
  Object.assign(said, { host: '', port: 587, security: 'starttls', user: '', from: '', perMinute: 0, ...settings, password: '' })
  editing.value = true
}
const settings = (): MailSettings => ({
  host: said.host.trim(),
  port: said.port,
  security: said.security,
  from: said.from.trim(),
  ...(said.user ? { user: said.user } : {}),
  ...(said.password ? { password: said.password } : {}),
  ...(said.perMinute ? { perMinute: said.perMinute } : {}),
})
async function keep(own: MailSettings | undefined): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await api('/api/mail', { method: 'PUT', body: { basedOn: kept.value!.version, ...(own ? { settings: own } : {}) } })
    editing.value = false
    toast.add({ title: t('settingsPage.kept'), icon: 'i-lucide-check', color: 'success' })
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
  busy.value = false
}
const to = ref('')
const answered = ref<{ fine: boolean; said: string }>()
async function test(): Promise<void> {
  busy.value = true
  problem.value = ''
  answered.value = undefined
  try {
    const body = { to: to.value.trim(), ...(editing.value ? { settings: settings() } : {}) }
    answered.value = await api<{ fine: boolean; said: string }>('/api/mail/test', { method: 'POST', body })
  } catch (error) {
    problem.value = (error as Error).message
  }
  busy.value = false
}
const securities: { value: MailSettings['security']; label: string }[] = [
  { value: 'starttls', label: t('settingsPage.starttls') },
  { value: 'tls', label: t('settingsPage.tls') },
  { value: 'none', label: t('settingsPage.notEncrypted') },
]
</script>

<template>
  <SettingsCard v-if="kept" :name="t('settingsPage.mailServer')" :problem="problem" data-mail>
    <template #about>
      {{
        kept.settings
          ? t('settingsPage.lettersGoThrough', { host: kept.settings.host, from: kept.settings.from })
          : t('settingsPage.lettersStayInTheOutbox')
      }}
    </template>
    <template #commands>
      <UButton v-if="!editing" size="sm" variant="outline" color="neutral" @click="edit">{{
        kept.settings ? t('common.change') : t('settingsPage.nameAServer')
      }}</UButton>
    </template>
    <form @submit.prevent="keep(settings())">
      <div v-if="editing" class="mb-4 grid grid-cols-3 gap-3">
        <UFormField :label="t('settingsPage.host')" size="sm"
          ><UInput
            v-model="said.host"
            size="sm"
            class="w-full"
            :placeholder="t('settingsPage.hostExample')"
            :aria-label="t('settingsPage.host')"
        /></UFormField>
        <UFormField :label="t('settingsPage.port')" size="sm"
          ><UInputNumber v-model="said.port" :min="1" :max="65535" size="sm" class="w-full" :aria-label="t('settingsPage.port')"
        /></UFormField>
        <UFormField :label="t('settingsPage.encryption')" size="sm"
          ><USelect v-model="said.security" :items="securities" size="sm" class="w-full" :aria-label="t('settingsPage.encryption')"
        /></UFormField>
        <UFormField :label="t('settingsPage.user')" size="sm"
          ><UInput v-model="said.user" size="sm" class="w-full" autocomplete="off" :aria-label="t('settingsPage.user')"
        /></UFormField>
        <UFormField :label="kept.settings?.hasPassword ? t('settingsPage.anotherPassword') : t('common.password')" size="sm"
          ><UInput v-model="said.password" type="password" size="sm" class="w-full" autocomplete="off" :aria-label="t('common.password')"
        /></UFormField>
        <UFormField :label="t('settingsPage.lettersAMinute')" size="sm"
          ><UInputNumber
            v-model="said.perMinute"
            :min="0"
            :max="100000"
            size="sm"
            class="w-full"
            :aria-label="t('settingsPage.lettersAMinute')"
        /></UFormField>
        <UFormField :label="t('settingsPage.sender')" size="sm" class="col-span-2"
          ><UInput
            v-model="said.from"
            size="sm"
            class="w-full"
            :placeholder="t('settingsPage.senderExample')"
            :aria-label="t('settingsPage.sender')"
        /></UFormField>
      </div>
      <div class="flex items-center gap-2">
        <UInput
          v-model="to"
          size="sm"
          class="w-72"
          :placeholder="t('settingsPage.addressExample')"
          :aria-label="t('settingsPage.testTo')"
        />
        <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-send" :loading="busy" :disabled="!to.trim()" @click="test">{{
          t('settingsPage.sendATest')
        }}</UButton>
        <p v-if="answered" :class="answered.fine ? 'text-moss-700 dark:text-moss-300' : 'text-error'" role="status">
          {{
            answered.fine
              ? t('settingsPage.theServerTookIt', { said: answered.said })
              : t('settingsPage.theServerSays', { said: tell(answered.said) })
          }}
        </p>
        <span class="grow" />
        <template v-if="editing">
          <UButton v-if="kept.settings" size="sm" variant="ghost" color="error" :loading="busy" @click="keep(undefined)">{{
            t('settingsPage.lettersToTheOutbox')
          }}</UButton>
          <UButton size="sm" variant="ghost" color="neutral" @click="editing = false">{{ t('common.cancel') }}</UButton>
          <UButton type="submit" size="sm" :loading="busy" :disabled="!said.host.trim() || !said.from.trim()">{{
            t('common.keep')
          }}</UButton>
        </template>
      </div>
    </form>
  </SettingsCard>
</template>
