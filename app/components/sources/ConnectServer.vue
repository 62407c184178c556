<script setup lang="ts">
import type { AddedServer, TriedServer } from '../../../core/api/intake'

/** A server that becomes a source, read in place: where it is, who reads, and what was found there. */
const emit = defineEmits<{ close: []; added: [source: AddedServer] }>()

const name = ref('')
const place = reactive({ host: 'localhost', port: '5432', database: '', user: '', password: '', encryption: '' })
const day = ref('')
const zone = ref('')
const tried = shallowRef<TriedServer>()
const schemas = ref<string[]>([])
const evenSuperuser = ref(false)
const problem = ref('')
const busy = ref('')

const encryptions = [
  { word: '', label: 'Checked, but for this machine' },
  { word: 'verify-full', label: 'Encrypted and checked' },
  { word: 'require', label: 'Encrypted, whoever it is' },
  { word: 'disable', label: 'Off' },
]

/** An address that is pasted fills all fields. */
function pasted(event: ClipboardEvent): void {
  const text = event.clipboardData?.getData('text').trim() ?? ''
  if (!/^postgres(?:ql)?:\/\//i.test(text)) return
  let url: URL
  try {
    url = new URL(text.replace(/^postgres(?:ql)?:/i, 'http:'))
  } catch {
    return
  }
  event.preventDefault()
  Object.assign(place, {
    host: url.searchParams.get('host') ?? url.hostname,
    port: url.port || '5432',
    database: decodeURIComponent(url.pathname.slice(1)),
    user: decodeURIComponent(url.username),
    password: decodeURIComponent(url.password),
    encryption: url.searchParams.get('sslmode') ?? '',
  })
}
const said = computed(() => {
  const { host, port, database, user, encryption } = place
  const query = new URLSearchParams({ host: host.trim(), ...(encryption ? { sslmode: encryption } : {}) })
  const at = `${encodeURIComponent(user.trim())}@${port.trim() ? `localhost:${port.trim()}` : 'localhost'}`
  return {
    url: `postgresql://${at}/${encodeURIComponent(database.trim())}?${query}`,
    ...(place.password ? { password: place.password } : {}),
    ...(schemas.value.length ? { schemas: schemas.value } : {}),
    ...(zone.value.trim() ? { zone: zone.value.trim() } : {}),
    ...(day.value ? { day: day.value } : {}),
    ...(evenSuperuser.value ? { evenSuperuser: true } : {}),
  }
})
const whole = computed(() => place.host.trim() && place.database.trim() && place.user.trim())
// what was found belongs to the place that was tried
watch(
  () => ({ ...place }),
  () => (tried.value = undefined),
)

async function look(): Promise<void> {
  busy.value = 'Trying …'
  problem.value = ''
  try {
    const { schemas: _, ...where } = said.value
    tried.value = await api<TriedServer>('/api/servers/try', { method: 'POST', body: where })
    const names = tried.value.schemas.map(each => each.name)
    schemas.value = names.includes('public') ? ['public'] : names.length === 1 ? names : []
  } catch (error) {
    tried.value = undefined
    problem.value = (error as Error).message
  } finally {
    busy.value = ''
  }
}
async function connect(): Promise<void> {
  busy.value = 'Connecting …'
  problem.value = ''
  try {
    emit('added', await api<AddedServer>('/api/servers', { method: 'POST', body: { name: name.value, ...said.value } }))
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = ''
  }
}
function take(schema: string, wanted: boolean): void {
  schemas.value = wanted ? [...schemas.value, schema] : schemas.value.filter(each => each !== schema)
}
const ready = computed(() => name.value.trim() && tried.value && schemas.value.length && (!tried.value.superuser || evenSuperuser.value))
const rowsOf = (rows: number) => `about ${rows.toLocaleString('en')} ${rows === 1 ? 'row' : 'rows'}`
</script>

<template>
  <section class="flex min-h-0 grow flex-col overflow-auto" aria-label="New source on a server" data-connect @paste="pasted">
    <header class="flex items-end gap-3 border-b border-default px-11 py-3">
      <UFormField label="Name of the source" size="sm" class="w-72"
        ><UInput v-model="name" size="sm" class="w-full" placeholder="ERP" autofocus
      /></UFormField>
      <span class="grow" />
      <UButton size="sm" variant="ghost" color="neutral" @click="emit('close')">Close</UButton>
      <UButton size="sm" icon="i-lucide-check" :disabled="!ready || !!busy" :loading="busy === 'Connecting …'" @click="connect">
        Connect
      </UButton>
    </header>
    <Notice v-if="problem" :text="problem" kind="error" />
    <div class="flex flex-wrap gap-x-16 gap-y-6 px-11 py-5">
      <form class="w-96 space-y-3" aria-label="Where the server is" @submit.prevent="look">
        <h2 class="font-display text-lg font-semibold">A PostgreSQL server, read in place</h2>
        <p class="text-sm text-muted">Fill in the fields, or paste an address that begins with postgresql:// into one of them.</p>
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
            <option v-for="each in encryptions" :key="each.word" :value="each.word">{{ each.label }}</option>
          </PickField></UFormField
        >
        <UButton
          type="submit"
          size="sm"
          icon="i-lucide-plug-zap"
          :variant="tried ? 'outline' : 'solid'"
          :color="tried ? 'neutral' : 'primary'"
          :disabled="!whole || !!busy"
          :loading="busy === 'Trying …'"
          >{{ tried ? 'Try again' : 'Try' }}</UButton
        >
      </form>
      <div v-if="tried" class="min-w-80 max-w-2xl grow space-y-4" data-tried role="status">
        <div>
          <h2 class="font-display text-lg font-semibold">Reached</h2>
          <p class="text-sm">
            PostgreSQL {{ tried.version }} as {{ tried.place }}, {{ tried.encrypted ? 'encrypted' : 'not encrypted' }}. Its clock shows
            {{ tried.now }} ({{ tried.zone }}).
          </p>
          <p v-for="note in tried.notes" :key="note" class="mt-1 text-sm text-apricot-700 dark:text-apricot-300">{{ note }}</p>
        </div>
        <fieldset v-if="tried.schemas.length">
          <legend class="mb-1 text-sm font-semibold">Schemas that are read</legend>
          <UCheckbox
            v-for="schema in tried.schemas"
            :key="schema.name"
            size="sm"
            class="py-0.5"
            :model-value="schemas.includes(schema.name)"
            @update:model-value="take(schema.name, $event === true)"
          >
            <template #label
              ><span
                >{{ schema.name }}
                <span class="font-normal text-muted"
                  >· {{ schema.tables }} {{ schema.tables === 1 ? 'table' : 'tables' }}, {{ rowsOf(schema.rows) }}</span
                ></span
              ></template
            >
          </UCheckbox>
          <p v-if="schemas.length > 1" class="mt-1 text-sm text-muted">
            Tables of “{{ schemas[0] }}” are called by their names, those of the others with their schema before them.
          </p>
        </fieldset>
        <UCheckbox
          v-if="tried.superuser"
          v-model="evenSuperuser"
          size="sm"
          label="Read as this user all the same"
          description="Estante only ever reads, but a mistake of anybody’s could do more."
        />
        <div class="flex flex-wrap gap-3">
          <UFormField label="Time zone of the company" size="sm" class="w-56" help="For moments that the server keeps with a zone.">
            <UInput v-model="zone" size="sm" class="w-full" :placeholder="tried.zone" />
          </UFormField>
          <UFormField label="Today" size="sm" class="w-56" help="Empty: the day it is. A fixed day is for tables that stand still.">
            <DayField v-model="day" size="sm" class="w-full" label="Today" clearable />
          </UFormField>
        </div>
      </div>
    </div>
  </section>
</template>
