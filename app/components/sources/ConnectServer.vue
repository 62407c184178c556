<script setup lang="ts">
import type { AddedSource, AddedServer, TriedCopy, TriedServer } from '../../../core/api/intake'

/** A server that becomes a source, read in place or copied: where it is, who reads, and what was found there. */
const emit = defineEmits<{ close: []; added: [source: { id: string }] }>()

type Kind = 'postgresql' | 'mysql'
const kind = ref<Kind>('postgresql')
const ports: Record<Kind, string> = { postgresql: '5432', mysql: '3306' }
function setKind(next: string): void {
  if (place.port === ports[kind.value]) place.port = ports[next as Kind]
  kind.value = next as Kind
  place.encryption = ''
}

const name = ref('')
const place = reactive({ host: 'localhost', port: '5432', database: '', user: '', password: '', encryption: '' })
const day = ref('')
const zone = ref('')
const tried = shallowRef<TriedServer>()
/** what a database holds that is to be copied, and which of it is wanted */
const found = shallowRef<TriedCopy>()
const tables = ref<string[]>([])
const progress = shallowRef<{ table: string; rows: number; of: number }>()
let leaving: AbortController | undefined
const schemas = ref<string[]>([])
const evenSuperuser = ref(false)
const problem = ref('')
const busy = ref('')

const encryptions = computed(() =>
  kind.value === 'mysql'
    ? [
        { word: '', label: 'Checked, but for this machine' },
        { word: 'on', label: 'Encrypted and checked' },
        { word: 'off', label: 'Off' },
      ]
    : [
        { word: '', label: 'Checked, but for this machine' },
        { word: 'verify-full', label: 'Encrypted and checked' },
        { word: 'require', label: 'Encrypted, whoever it is' },
        { word: 'disable', label: 'Off' },
      ],
)

/** An address that is pasted fills all fields. */
function pasted(event: ClipboardEvent): void {
  const text = event.clipboardData?.getData('text').trim() ?? ''
  const scheme = /^(postgres(?:ql)?|mysql|mariadb):\/\//i.exec(text)?.[1]?.toLowerCase()
  if (!scheme) return
  let url: URL
  try {
    url = new URL(text.replace(/^\w+:/, 'http:'))
  } catch {
    return
  }
  event.preventDefault()
  kind.value = scheme.startsWith('postgres') ? 'postgresql' : 'mysql'
  Object.assign(place, {
    host: url.searchParams.get('host') ?? url.searchParams.get('socket') ?? url.hostname,
    port: url.port || ports[kind.value],
    database: decodeURIComponent(url.pathname.slice(1)),
    user: decodeURIComponent(url.username),
    password: decodeURIComponent(url.password),
    encryption: url.searchParams.get(kind.value === 'mysql' ? 'ssl' : 'sslmode') ?? '',
  })
}
const copied = computed(() => {
  const { host, port, database, user, encryption, password } = place
  const own = host.trim().startsWith('/')
  const query = new URLSearchParams({ ...(own ? { socket: host.trim() } : {}), ...(encryption ? { ssl: encryption } : {}) })
  const at = own ? 'localhost' : `${host.trim()}${port.trim() ? `:${port.trim()}` : ''}`
  return {
    url: `mysql://${encodeURIComponent(user.trim())}@${at}/${encodeURIComponent(database.trim())}?${query}`,
    ...(password ? { password } : {}),
    ...(found.value && tables.value.length < found.value.tables.length ? { tables: tables.value } : {}),
  }
})
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
  () => ({ ...place, kind: kind.value }),
  () => {
    tried.value = undefined
    found.value = undefined
  },
)

async function look(): Promise<void> {
  busy.value = 'Trying …'
  problem.value = ''
  try {
    if (kind.value === 'mysql') {
      found.value = undefined
      const { url, password } = copied.value
      found.value = await api<TriedCopy>('/api/copies/try', { method: 'POST', body: { url, ...(password ? { password } : {}) } })
      tables.value = found.value.tables.map(table => table.name)
      return
    }
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
async function copyTables(): Promise<void> {
  busy.value = 'Copying …'
  problem.value = ''
  leaving = new AbortController()
  const asking = setInterval(async () => {
    const answer = await api<{ progress?: { table: string; rows: number; of: number } }>(
      `/api/copies?${new URLSearchParams({ name: name.value })}`,
    ).catch(() => undefined)
    progress.value = answer?.progress
  }, 500)
  try {
    const body = { name: name.value, ...copied.value }
    emit('added', await api<AddedSource>('/api/copies', { method: 'POST', body, signal: leaving.signal }))
  } catch (error) {
    problem.value = leaving.signal.aborted ? 'Nothing was copied.' : (error as Error).message
  } finally {
    clearInterval(asking)
    busy.value = ''
    progress.value = undefined
    leaving = undefined
  }
}
onBeforeUnmount(() => leaving?.abort())
async function connect(): Promise<void> {
  if (kind.value === 'mysql') return copyTables()
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
const ready = computed(() =>
  kind.value === 'mysql'
    ? name.value.trim() && found.value && tables.value.length
    : name.value.trim() && tried.value && schemas.value.length && (!tried.value.superuser || evenSuperuser.value),
)
function want(table: string, wanted: boolean): void {
  tables.value = wanted ? [...tables.value, table] : tables.value.filter(each => each !== table)
}
const wantedRows = computed(
  () => found.value?.tables.filter(each => tables.value.includes(each.name)).reduce((sum, each) => sum + each.rows, 0) ?? 0,
)
const copyingWords = computed(() =>
  progress.value
    ? `${progress.value.rows.toLocaleString('en')} of ${rowsOf(progress.value.of)} are copied; at hand is “${progress.value.table}”. ` +
      'The rest of the program goes on.'
    : '',
)
const rowsOf = (rows: number) => (rows ? `about ${rows.toLocaleString('en')} ${rows === 1 ? 'row' : 'rows'}` : 'no rows')
</script>

<template>
  <section class="flex min-h-0 grow flex-col overflow-auto" aria-label="New source on a server" data-connect @paste="pasted">
    <header class="flex items-end gap-3 border-b border-default px-11 py-3">
      <UFormField label="Name of the source" size="sm" class="w-72"
        ><UInput v-model="name" size="sm" class="w-full" placeholder="ERP" autofocus
      /></UFormField>
      <span class="grow" />
      <UButton size="sm" variant="ghost" color="neutral" @click="emit('close')">Close</UButton>
      <UButton v-if="busy === 'Copying …'" size="sm" variant="outline" color="neutral" @click="leaving?.abort()">Stop</UButton>
      <UButton
        size="sm"
        icon="i-lucide-check"
        :disabled="!ready || !!busy"
        :loading="busy === 'Connecting …' || busy === 'Copying …'"
        @click="connect"
      >
        {{
          kind === 'mysql'
            ? busy === 'Copying …'
              ? 'Copying …'
              : tables.length === 1
                ? 'Copy 1 table'
                : `Copy ${tables.length} tables`
            : 'Connect'
        }}
      </UButton>
    </header>
    <Notice v-if="problem" :text="problem" kind="error" />
    <Notice v-else-if="progress" :text="copyingWords" />
    <div class="flex flex-wrap gap-x-16 gap-y-6 px-11 py-5">
      <form class="w-96 space-y-3" aria-label="Where the server is" @submit.prevent="look">
        <UFormField label="Kind" size="sm"
          ><PickField class="w-full" size="sm" aria-label="Kind" :value="kind" @pick="setKind">
            <option value="postgresql">PostgreSQL, read in place</option>
            <option value="mysql">MariaDB or MySQL, copied</option>
          </PickField></UFormField
        >
        <p class="text-sm text-muted">Fill in the fields, or paste an address that begins with {{ kind }}:// into one of them.</p>
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
          :variant="tried || found ? 'outline' : 'solid'"
          :color="tried || found ? 'neutral' : 'primary'"
          :disabled="!whole || !!busy"
          :loading="busy === 'Trying …'"
          >{{ tried || found ? 'Try again' : 'Try' }}</UButton
        >
      </form>
      <div v-if="found" class="min-w-80 max-w-2xl grow space-y-4" data-tried role="status">
        <div>
          <h2 class="font-display text-lg font-semibold">Reached</h2>
          <p class="text-sm">Version {{ found.version }}. All tables are copied as they are at one moment.</p>
          <p v-for="note in found.notes" :key="note" class="mt-1 text-sm text-apricot-700 dark:text-apricot-300">{{ note }}</p>
        </div>
        <fieldset>
          <legend class="mb-1 text-sm font-semibold">
            Tables that are copied <span class="font-normal text-muted">· {{ rowsOf(wantedRows) }}</span>
          </legend>
          <div v-for="table in found.tables" :key="table.name" class="py-0.5">
            <UCheckbox size="sm" :model-value="tables.includes(table.name)" @update:model-value="want(table.name, $event === true)">
              <template #label
                ><span
                  >{{ table.name }}
                  <span class="font-normal text-muted"
                    >· {{ table.columns }} {{ table.columns === 1 ? 'column' : 'columns' }}, {{ rowsOf(table.rows)
                    }}{{ table.comment ? ` · ${table.comment}` : '' }}</span
                  ></span
                ></template
              >
            </UCheckbox>
            <p v-for="note in table.notes" :key="note" class="ml-6 text-sm text-apricot-700 dark:text-apricot-300">{{ note }}</p>
          </div>
        </fieldset>
      </div>
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
