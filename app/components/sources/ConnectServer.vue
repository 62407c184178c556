<script setup lang="ts">
import type { AddedSource, AddedServer, TriedCopy, TriedServer } from '../../../core/api/intake'
import { addressOf, encryptions, placeOf, type ServerKind, type ServerPlace, usualPorts } from '../../../core/intake/serverPlace'

/** A server that becomes a source, read in place or copied: where it is, who reads, and what was found there. */
const emit = defineEmits<{ close: []; added: [source: { id: string }] }>()

const name = ref('')
const place = reactive<ServerPlace>({
  kind: 'postgresql',
  host: 'localhost',
  port: usualPorts.postgresql,
  database: '',
  user: '',
  password: '',
  encryption: '',
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
const [schemas, zone, day, evenSuperuser] = [ref<string[]>([]), ref(''), ref(''), ref(false)]
/** what a database holds that is to be copied, and which of it is wanted */
const found = shallowRef<TriedCopy>()
const tables = ref<string[]>([])
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
    problem.value = leaving.value?.signal.aborted ? 'Nothing was copied.' : (error as Error).message
  } finally {
    busy.value = ''
  }
}
const look = () =>
  working('trying', async () => {
    tried.value = found.value = undefined
    if (copied.value) {
      found.value = await api<TriedCopy>('/api/copies/try', { method: 'POST', body: said.value })
      tables.value = found.value.tables.map(table => table.name)
      return
    }
    tried.value = await api<TriedServer>('/api/servers/try', { method: 'POST', body: said.value })
    const names = tried.value.schemas.map(each => each.name)
    schemas.value = names.includes('public') ? ['public'] : names.length === 1 ? names : []
  })

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
    const body = { name: name.value, ...said.value, ...some }
    emit('added', await api<AddedSource>('/api/copies', { method: 'POST', body, signal: stop.signal }))
  } finally {
    asking.pause()
    progress.value = undefined
  }
}
const connect = () =>
  working('connecting', async () => {
    if (copied.value) return copyTables()
    const body = {
      name: name.value,
      ...said.value,
      schemas: schemas.value,
      zone: zone.value.trim(),
      day: day.value,
      evenSuperuser: evenSuperuser.value,
    }
    emit('added', await api<AddedServer>('/api/servers', { method: 'POST', body }))
  })
const ready = computed(() => {
  if (!name.value.trim() || busy.value) return false
  if (copied.value) return !!found.value && tables.value.length > 0
  return !!tried.value && schemas.value.length > 0 && (!tried.value.superuser || evenSuperuser.value)
})
const copying = computed(() => copied.value && busy.value === 'connecting')
const copyWords = computed(() =>
  copying.value ? 'Copying …' : `Copy ${tables.value.length} ${tables.value.length === 1 ? 'table' : 'tables'}`,
)
const progressWords = computed(
  () =>
    progress.value &&
    `${progress.value.rows.toLocaleString('en')} of ${rowWords(progress.value.of)} are copied; at hand is “${progress.value.table}”. ` +
      'The rest of the program goes on.',
)
</script>

<template>
  <section class="flex min-h-0 grow flex-col overflow-auto" aria-label="New source on a server" data-connect @paste="pasted">
    <header class="flex items-end gap-3 border-b border-default px-11 py-3">
      <UFormField label="Name of the source" size="sm" class="w-72"
        ><UInput v-model="name" size="sm" class="w-full" placeholder="ERP" autofocus
      /></UFormField>
      <span class="grow" />
      <UButton size="sm" variant="ghost" color="neutral" @click="emit('close')">Close</UButton>
      <UButton v-if="copying" size="sm" variant="outline" color="neutral" @click="leaving?.abort()">Stop</UButton>
      <UButton size="sm" icon="i-lucide-check" :disabled="!ready" :loading="busy === 'connecting'" @click="connect">
        {{ copied ? copyWords : 'Connect' }}
      </UButton>
    </header>
    <Notice v-if="problem" :text="problem" kind="error" />
    <Notice v-else-if="progressWords" :text="progressWords" />
    <div class="flex flex-wrap gap-x-16 gap-y-6 px-11 py-5">
      <form class="w-96 space-y-3" aria-label="Where the server is" @submit.prevent="look">
        <UFormField label="Kind" size="sm"
          ><PickField class="w-full" size="sm" aria-label="Kind" :value="place.kind" @pick="setKind($event as ServerKind)">
            <option value="postgresql">PostgreSQL, read in place</option>
            <option value="mysql">MariaDB or MySQL, copied</option>
          </PickField></UFormField
        >
        <p class="text-sm text-muted">Fill in the fields, or paste an address that begins with {{ place.kind }}:// into one of them.</p>
        <div class="flex gap-3">
          <UFormField label="Host" size="sm" class="grow"><UInput v-model="place.host" size="sm" class="w-full" /></UFormField>
          <UFormField label="Port" size="sm" class="w-24"><UInput v-model="place.port" size="sm" class="w-full" /></UFormField>
        </div>
        <UFormField label="Database" size="sm"><UInput v-model="place.database" size="sm" class="w-full" /></UFormField>
        <div class="flex gap-3">
          <UFormField label="User" size="sm" class="grow"
            ><UInput v-model="place.user" size="sm" class="w-full" autocomplete="off"
          /></UFormField>
          <UFormField label="Password" size="sm" class="grow"
            ><UInput v-model="place.password" size="sm" class="w-full" type="password" autocomplete="new-password"
          /></UFormField>
        </div>
        <UFormField label="Encryption" size="sm"
          ><PickField class="w-full" size="sm" aria-label="Encryption" :value="place.encryption" @pick="place.encryption = $event">
            <option v-for="each in encryptions[place.kind]" :key="each.word" :value="each.word">{{ each.label }}</option>
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
          >{{ tried || found ? 'Try again' : 'Try' }}</UButton
        >
      </form>
      <SourcesCopyTables v-if="found" v-model:tables="tables" :found="found" />
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
