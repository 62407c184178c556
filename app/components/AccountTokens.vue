<script setup lang="ts">
import { type Role, roles, type TokenInfo } from '../../core/api/people'

/** Tokens by which other programs ask in one's own name. */
const { role } = defineProps<{ role: Role }>()
const emit = defineEmits<{ problem: [text: string] }>()
const tokens = shallowRef<TokenInfo[]>([])
const making = ref(false)
const said = reactive({ name: '', scope: 'reader' as Role, until: '' })
const fault = ref('')
/** told once */
const fresh = ref('')
const scopes = computed(() => roles.slice(0, roles.indexOf(role) + 1).map(each => ({ value: each, label: words[each] })))
const words: Record<Role, string> = {
  reader: t('accountTokens.runReports'),
  author: t('accountTokens.runAndBuildReports'),
  administrator: t('accountTokens.everything'),
}
async function load(): Promise<void> {
  try {
    tokens.value = await api<TokenInfo[]>('/api/tokens')
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
void load()
async function make(): Promise<void> {
  fault.value = ''
  try {
    fresh.value = (await api<{ token: string }>('/api/tokens', { method: 'POST', body: { ...said } })).token
    Object.assign(said, { name: '', scope: 'reader', until: '' })
    making.value = false
    await load()
  } catch (error) {
    fault.value = (error as Error).message
  }
}
async function takeBack(token: TokenInfo): Promise<void> {
  try {
    await api(`/api/tokens/${token.id}`, { method: 'DELETE' })
    await load()
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
</script>

<template>
  <section class="rounded-md border border-default bg-default p-4 text-sm" data-tokens>
    <div class="flex items-center">
      <h2 class="font-semibold">{{ t('accountTokens.tokensForOtherPrograms') }}</h2>
      <UButton
        v-if="!making"
        size="xs"
        variant="outline"
        color="neutral"
        icon="i-lucide-key-round"
        class="ml-auto"
        @click="making = true"
        >{{ t('accountTokens.newToken') }}</UButton
      >
    </div>
    <div v-if="fresh" class="mt-3 space-y-2 rounded-md border border-petrol-600 p-3" role="status">
      <p class="font-semibold">{{ t('accountTokens.copyItNowItIs') }}</p>
      <UInput
        :model-value="fresh"
        readonly
        size="sm"
        class="w-full font-mono"
        :aria-label="t('accountTokens.theNewToken')"
        @focus="$event.target.select()"
      />
      <p class="text-muted">{{ t('accountTokens.aProgramSendsItAs') }} <code class="font-mono">Authorization: Bearer …</code></p>
    </div>
    <form v-if="making" class="mt-3" @submit.prevent="make">
      <div class="flex items-end gap-3">
        <UFormField :label="t('accountTokens.for')" size="sm" class="grow"
          ><UInput
            v-model="said.name"
            size="sm"
            class="w-full"
            :placeholder="t('accountTokens.nightlyExports')"
            :aria-label="t('accountTokens.whatTheTokenIsFor')"
        /></UFormField>
        <UFormField :label="t('accountTokens.may')" size="sm"
          ><USelect v-model="said.scope" :items="scopes" size="sm" class="w-48" :aria-label="t('accountTokens.whatTheTokenMayDo')"
        /></UFormField>
        <UFormField :label="t('accountTokens.until')" size="sm"
          ><DayField v-model="said.until" :label="t('accountTokens.lastDayOfTheToken')"
        /></UFormField>
        <UButton type="submit" size="sm" :disabled="!said.name || !said.until">{{ t('accountTokens.makeIt') }}</UButton>
      </div>
      <p v-if="fault" class="mt-2 text-error" role="alert">{{ tell(fault) }}</p>
    </form>
    <p v-if="!tokens.length && !making" class="mt-1 text-muted">
      {{ t('accountTokens.noneAProgramThatRuns') }}
    </p>
    <table v-if="tokens.length" class="mt-2 w-full">
      <tbody>
        <tr v-for="token in tokens" :key="token.id" class="[&>td]:py-1.5" :data-token="token.name">
          <td class="font-semibold">{{ token.name }}</td>
          <td class="text-muted">{{ t('accountTokens.may2', { words: words[token.scope] }) }}</td>
          <td class="text-muted">{{ t('accountTokens.until2', { dayWords: dayWords(token.until) }) }}</td>
          <td class="text-muted">
            {{ token.usedAt ? t('accountTokens.used', { dayWords: dayWords(token.usedAt) }) : t('accountTokens.notUsedYet') }}
          </td>
          <td class="text-right">
            <UButton size="xs" variant="outline" color="neutral" @click="takeBack(token)">{{ t('common.takeBack') }}</UButton>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
