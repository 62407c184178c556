<script setup lang="ts">
import type { AddedSource, AddedServer, SourceConnection, TriedCopy, TriedServer } from '../../../core/api/intake'
import { addressOf, encryptions, placeOf, type ServerKind, type ServerPlace, usualPorts } from '../../../core/intake/serverPlace'

/**
 * A server that becomes a source, read in place or copied: where it is, who reads, and what was found there. Of a source that is there,
 * what is kept of it is changed.
 */
const { kept = undefined } = defineProps<{ kept?: { id: string; connection: Exclude<SourceConnection, { kind: 'files' }> } | undefined }>()
const emit = defineEmits<{ close: []; added: [source: { id: string }] }>()

const name = ref(kept?.connection.name ?? '')
const place = reactive<ServerPlace>({
  kind: 'postgresql',
  host: 'localhost',
  port: usualPorts.postgresql,
  database: '',
  user: '',
  password: '',
  encryption: '',
  ...(kept ? placeOf(kept.connection.url) : {}),
})
function setKind(kind: ServerKind): void {
  if (place.port === usualPorts[place.kind]) place.port = usualPorts[kind]
  Object.assign(place, { kind, encryption: '' })
}
/** An address that is pasted fills all fields. */
function pasted(event: ClipboardEvent): void {
  const found = placeOf(event.clipboardData?.getData('text') ?? '')
  if (!found) return
  event.preventDefault()
  Object.assign(place, found)
}

const tried = shallowRef<TriedServer>()
const server = kept?.connection.kind === 'server' ? kept.connection : undefined
const copy = kept?.connection.kind === 'copy' ? kept.connection : undefined
const [schemas, zone, day, evenSuperuser] = [ref(server?.schemas ?? []), ref(server?.zone ?? ''), ref(server?.day ?? ''), ref(false)]
/** what a database holds that is to be copied, and which of it is wanted */
const found = shallowRef<TriedCopy>()
const tables = ref<string[]>([])
const grows = ref<Record<string, string>>({ ...copy?.grows })
const problem = ref('')
const busy = ref<'' | 'trying' | 'connecting'>('')
const copied = computed(() => place.kind === 'mysql')
const said = computed(() => ({ url: addressOf(place), ...(place.password ? { password: place.password } : {}) }))
const whole = computed(() => place.host.trim() && place.database.trim() && place.user.trim())
// what was found belongs to the place that was tried
watch(place, () => (tried.value = found.value = undefined))

async function working(what: 'trying' | 'connecting', work: () => Promise<void>): Promise<void> {
  busy.value = what
  problem.value = ''
  try {
    await work()
  } catch (error) {
    problem.value = leaving.value?.signal.aborted ? t('connectServer.nothingWasCopied') : (error as Error).message
  } finally {
    busy.value = ''
  }
}
const look = () =>
  working('trying', async () => {
    tried.value = found.value = undefined
    if (kept) return lookAgain()
    if (copied.value) {
      found.value = await api<TriedCopy>('/api/copies/try', { method: 'POST', body: said.value })
      tables.value = found.value.tables.map(table => table.name)
      return
    }
    tried.value = await api<TriedServer>('/api/servers/try', { method: 'POST', body: said.value })
    const names = tried.value.schemas.map(each => each.name)
    schemas.value = names.includes('public') ? ['public'] : names.length === 1 ? names : []
  })

/** What is there now, and of what was wanted before what is still there. */
async function lookAgain(): Promise<void> {
  const answer = await api<{ server?: TriedServer; copy?: TriedCopy }>(`/api/sources/${encodeURIComponent(kept!.id)}/try`, {
    method: 'POST',
    body: said.value,
  })
  tried.value = answer.server
  found.value = answer.copy
  if (answer.server) schemas.value = schemas.value.filter(each => answer.server!.schemas.some(schema => schema.name === each))
  if (answer.copy) {
    const there = answer.copy.tables.map(table => table.name)
    tables.value = copy?.tables ? there.filter(each => copy.tables!.includes(each)) : there
  }
}
/** reports would break: it is changed only if somebody wants it all the same */
const lacking = ref(false)
async function change(evenSo: boolean): Promise<void> {
  const some = tables.value.length < (found.value?.tables.length ?? 0) ? { tables: tables.value } : {}
  const growing = Object.fromEntries(Object.entries(grows.value).filter(([table]) => tables.value.includes(table)))
  const body = {
    name: name.value,
    ...(copied.value ? { copy: { ...said.value, ...some, grows: growing } } : { server: { ...said.value, ...readAs.value } }),
    ...(evenSo ? { evenSo } : {}),
  }
  lacking.value = false
  try {
    await api(`/api/sources/${encodeURIComponent(kept!.id)}/connection`, { method: 'PUT', body })
    emit('added', { id: kept!.id })
  } catch (error) {
    lacking.value = (error as Error).message.includes('change it all the same')
    throw error
  }
}

const progress = shallowRef<{ table: string; rows: number; of: number }>()
const leaving = shallowRef<AbortController>()
onBeforeUnmount(() => leaving.value?.abort())
async function copyTables(): Promise<void> {
  const stop = (leaving.value = new AbortController())
  const asking = useIntervalFn(async () => {
    const asked = `/api/copies?${new URLSearchParams({ name: name.value })}`
    progress.value = (await api<{ progress?: { table: string; rows: number; of: number } }>(asked).catch(() => undefined))?.progress
  }, 500)
  try {
    const some = tables.value.length < found.value!.tables.length ? { tables: tables.value } : {}
    const body = { name: name.value, ...said.value, ...some, ...(Object.keys(grows.value).length ? { grows: grows.value } : {}) }
    emit('added', await api<AddedSource>('/api/copies', { method: 'POST', body, signal: stop.signal }))
  } finally {
    asking.pause()
    progress.value = undefined
  }
}
const readAs = computed(() => ({ schemas: schemas.value, zone: zone.value.trim(), day: day.value, evenSuperuser: evenSuperuser.value }))
const connect = (evenSo = false) =>
  working('connecting', async () => {
    if (kept) return change(evenSo)
    if (copied.value) return copyTables()
    const body = { name: name.value, ...said.value, ...readAs.value }
    emit('added', await api<AddedServer>('/api/servers', { method: 'POST', body }))
  })
const ready = computed(() => {
  if (!name.value.trim() || busy.value) return false
  if (copied.value) return !!found.value && tables.value.length > 0
  return !!tried.value && schemas.value.length > 0 && (!tried.value.superuser || evenSuperuser.value)
})
const copying = computed(() => !kept && copied.value && busy.value === 'connecting')
const doWords = computed(() => (kept ? t('common.change') : copied.value ? copyWords.value : t('connectServer.connect')))
const copyWords = computed(() =>
  copying.value ? t('connectServer.copying') : t('connectServer.copyTables', { count: grouped(tables.value.length) }, tables.value.length),
)
const progressWords = computed(
  () =>
    progress.value &&
    t('connectServer.ofAreCopiedAtHand', {
      rows: grouped(progress.value.rows),
      rowWords: rowWords(progress.value.of),
      table: progress.value.table,
    }) + t('connectServer.theRestOfTheProgram'),
)
</script>

<template>
  <section
    class="flex min-h-0 grow flex-col overflow-auto"
    :aria-label="kept ? t('connectServer.nameAndConnectionOf', { name: kept.connection.name }) : t('connectServer.newSourceOnAServer')"
    data-connect
    @paste="pasted"
  >
    <header class="flex items-end gap-3 border-b border-default px-11 py-3">
      <UFormField :label="t('common.nameOfTheSource')" size="sm" class="w-72"
        ><UInput v-model="name" size="sm" class="w-full" :placeholder="t('connectServer.erp')" autofocus
      /></UFormField>
      <span class="grow" />
      <UButton size="sm" variant="ghost" color="neutral" @click="emit('close')">{{ t('common.close') }}</UButton>
      <UButton v-if="copying" size="sm" variant="outline" color="neutral" @click="leaving?.abort()">{{ t('common.stop') }}</UButton>
      <UButton v-if="lacking" size="sm" color="error" variant="outline" :disabled="!ready" @click="connect(true)">{{
        t('connectServer.changeItAllTheSame')
      }}</UButton>
      <UButton size="sm" icon="i-lucide-check" :disabled="!ready" :loading="busy === 'connecting'" @click="connect()">
        {{ doWords }}
      </UButton>
    </header>
    <Notice v-if="problem" :text="problem" kind="error" />
    <Notice v-else-if="progressWords" :text="progressWords" />
    <div class="flex flex-wrap gap-x-16 gap-y-6 px-11 py-5">
      <form class="w-96 space-y-3" :aria-label="t('connectServer.whereTheServerIs')" @submit.prevent="look">
        <p v-if="kept" class="text-sm text-muted">
          {{
            t('connectServer.tryItThenChangeIt', {
              what: copied ? t('connectServer.whatIsChangedHereIs') : t('connectServer.reportsReadFromHereFrom'),
            })
          }}
        </p>
        <UFormField v-else :label="t('connectServer.kind')" size="sm"
          ><PickField
            class="w-full"
            size="sm"
            :aria-label="t('connectServer.kind')"
            :value="place.kind"
            @pick="setKind($event as ServerKind)"
          >
            <option value="postgresql">{{ t('connectServer.postgresqlReadInPlace') }}</option>
            <option value="mysql">{{ t('connectServer.mariadbOrMysqlCopied') }}</option>
          </PickField></UFormField
        >
        <p v-if="!kept" class="text-sm text-muted">
          {{ t('connectServer.fillInTheFieldsOr', { kind: place.kind }) }}
        </p>
        <div class="flex gap-3">
          <UFormField :label="t('connectServer.host')" size="sm" class="grow"
            ><UInput v-model="place.host" size="sm" class="w-full"
          /></UFormField>
          <UFormField :label="t('connectServer.port')" size="sm" class="w-24"
            ><UInput v-model="place.port" size="sm" class="w-full"
          /></UFormField>
        </div>
        <UFormField :label="t('connectServer.database')" size="sm"><UInput v-model="place.database" size="sm" class="w-full" /></UFormField>
        <div class="flex gap-3">
          <UFormField :label="t('connectServer.user')" size="sm" class="grow"
            ><UInput v-model="place.user" size="sm" class="w-full" autocomplete="off"
          /></UFormField>
          <UFormField :label="t('common.password')" size="sm" class="grow"
            ><UInput
              v-model="place.password"
              size="sm"
              class="w-full"
              type="password"
              :placeholder="kept ? t('connectServer.asBefore') : ''"
              autocomplete="new-password"
          /></UFormField>
        </div>
        <UFormField :label="t('connectServer.encryption')" size="sm"
          ><PickField
            class="w-full"
            size="sm"
            :aria-label="t('connectServer.encryption')"
            :value="place.encryption"
            @pick="place.encryption = $event"
          >
            <option v-for="each in encryptions[place.kind]" :key="each.word" :value="each.word">{{ tell(each.label) }}</option>
          </PickField></UFormField
        >
        <UButton
          type="submit"
          size="sm"
          icon="i-lucide-plug-zap"
          :variant="tried || found ? 'outline' : 'solid'"
          :color="tried || found ? 'neutral' : 'primary'"
          :disabled="!whole || !!busy"
          :loading="busy === 'trying'"
          >{{ tried || found ? t('common.tryAgain') : t('connectServer.try') }}</UButton
        >
      </form>
      <SourcesCopyTables v-if="found" v-model:tables="tables" v-model:grows="grows" :found="found" />
      <SourcesReadInPlace
        v-if="tried"
        v-model:schemas="schemas"
        v-model:zone="zone"
        v-model:day="day"
        v-model:even-superuser="evenSuperuser"
        :tried="tried"
      />
    </div>
  </section>
</template>
