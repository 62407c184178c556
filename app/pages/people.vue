<script setup lang="ts">
import { type PersonInfo, type Role, roles as roleNames } from '../../core/api/people'

/** Who can sign in, and what they may do. */
const me = useMe()
useHead({ title: 'People · Estante' })
const people = shallowRef<PersonInfo[]>()
const problem = ref('')
const adding = ref(false)
const fresh = reactive({ name: '', signIn: '', role: 'reader' as Role, password: '' })
const fault = ref('')
const removing = shallowRef<PersonInfo>()
const roles = [
  { value: 'reader', label: 'reader: runs what is published' },
  { value: 'author', label: 'author: builds and publishes reports' },
  { value: 'administrator', label: 'administrator: people, sources and settings too' },
]
async function load(): Promise<void> {
  try {
    if (!me.known) await me.read()
    people.value = await api<PersonInfo[]>('/api/people')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
void load()
/** Does something, tells what went wrong, and shows what is so now. */
async function change(work: () => Promise<unknown>): Promise<void> {
  problem.value = ''
  try {
    await work()
  } catch (error) {
    problem.value = (error as Error).message
  }
  await load()
}
/** A new password for somebody who has forgotten theirs, to be told them. */
const renewing = shallowRef<PersonInfo>()
const renewed = ref('')
const more = (each: PersonInfo) => [
  ...(each.byPassword ? [{ label: 'Give a new password', icon: 'i-lucide-key-round', onSelect: () => void (renewing.value = each) }] : []),
  ...(each.second
    ? [
        {
          label: 'Take the second factor away',
          icon: 'i-lucide-smartphone',
          onSelect: () => void change(() => api(`/api/people/${each.id}`, { method: 'PUT', body: { second: false } })),
        },
      ]
    : []),
]
async function renew(): Promise<void> {
  fault.value = ''
  try {
    await api(`/api/people/${renewing.value!.id}`, { method: 'PUT', body: { password: renewed.value } })
    renewing.value = undefined
    renewed.value = ''
  } catch (error) {
    fault.value = (error as Error).message
  }
}
async function add(): Promise<void> {
  fault.value = ''
  try {
    await api('/api/people', { method: 'POST', body: { ...fresh } })
    Object.assign(fresh, { name: '', signIn: '', role: 'reader', password: '' })
    adding.value = false
    await load()
  } catch (error) {
    fault.value = (error as Error).message
  }
}
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar home />
    <Notice v-if="problem" :text="problem" kind="error" />
    <main class="desk grow px-10 py-6">
      <div class="max-w-4xl">
        <div class="mb-3 flex items-center gap-3">
          <h1 class="font-display text-lg font-semibold">People</h1>
          <UButton v-if="!adding" size="sm" icon="i-lucide-user-round-plus" class="ml-auto" @click="adding = true">Add a person</UButton>
        </div>
        <form v-if="adding" class="mb-4 rounded-md border border-default bg-default p-4 text-sm" data-new-person @submit.prevent="add">
          <div class="grid grid-cols-2 gap-3">
            <UFormField label="Name" size="sm"
              ><UInput v-model="fresh.name" size="sm" class="w-full" autofocus aria-label="Name" autocomplete="off"
            /></UFormField>
            <UFormField label="Signs in as" size="sm"
              ><UInput v-model="fresh.signIn" size="sm" class="w-full" aria-label="Signs in as" autocomplete="off"
            /></UFormField>
            <UFormField label="May do" size="sm"
              ><USelect v-model="fresh.role" :items="roles" size="sm" class="w-full" aria-label="May do"
            /></UFormField>
            <UFormField label="First password, which they change themselves" size="sm"
              ><UInput v-model="fresh.password" size="sm" class="w-full" aria-label="First password" autocomplete="off"
            /></UFormField>
          </div>
          <p v-if="fault" class="mt-2 text-error" role="alert">{{ fault }}</p>
          <div class="mt-3 flex gap-2">
            <UButton type="submit" size="sm" :disabled="!fresh.name || !fresh.signIn || !fresh.password">Add</UButton>
            <UButton size="sm" variant="ghost" color="neutral" @click="adding = false">Cancel</UButton>
          </div>
        </form>
        <table
          v-if="people"
          class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default text-sm"
          data-people
        >
          <thead>
            <tr class="text-left text-muted">
              <th class="px-4 py-2 font-medium">Name</th>
              <th class="px-3 py-2 font-medium">Signs in as</th>
              <th class="px-3 py-2 font-medium">May do</th>
              <th class="px-3 py-2 font-medium">Teams</th>
              <th class="px-3 py-2 font-medium">Since</th>
              <th class="px-4 py-2" />
            </tr>
          </thead>
          <tbody>
            <tr v-for="each in people" :key="each.id" class="[&>td]:border-t [&>td]:border-default" :data-person="each.signIn">
              <td class="px-4 py-2 font-semibold">
                {{ each.name }}<span v-if="each.id === me.person?.id" class="ml-2 font-normal text-muted">you</span>
              </td>
              <td class="px-3 py-2 text-muted">{{ each.signIn }}</td>
              <td class="px-3 py-2">
                <USelect
                  :model-value="each.role"
                  :items="[...roleNames]"
                  size="sm"
                  class="w-36"
                  :aria-label="`What ${each.name} may do`"
                  @update:model-value="role => change(() => api(`/api/people/${each.id}`, { method: 'PUT', body: { role } }))"
                />
              </td>
              <td class="px-3 py-2">{{ each.teams.join(', ') }}</td>
              <td class="whitespace-nowrap px-3 py-2 text-muted">{{ dayWords(each.createdAt) }}</td>
              <td class="whitespace-nowrap px-4 py-2 text-right">
                <UDropdownMenu v-if="each.byPassword || each.second" :items="more(each)" :content="{ align: 'end' }"
                  ><UButton
                    size="xs"
                    variant="ghost"
                    color="neutral"
                    icon="i-lucide-ellipsis"
                    :aria-label="`More for ${each.name}`" /></UDropdownMenu
                ><UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-user-round-minus"
                  :aria-label="`Remove ${each.name}`"
                  @click="removing = each"
                />
              </td>
            </tr>
          </tbody>
        </table>
        <TeamsList v-if="people" :people="people" @changed="load" />
        <ProviderSettings v-if="people" />
      </div>
      <UModal
        :open="!!renewing"
        :title="`A new password for ${renewing?.name ?? ''}`"
        description="They are signed out everywhere, and change it themselves under My account."
        @update:open="open => open || (renewing = undefined)"
      >
        <template #body>
          <UInput v-model="renewed" class="w-full" autofocus aria-label="The new password" autocomplete="off" @keydown.enter="renew" />
          <p v-if="fault" class="mt-2 text-sm text-error" role="alert">{{ fault }}</p>
        </template>
        <template #footer>
          <UButton :disabled="!renewed" @click="renew">Give it</UButton>
          <UButton variant="ghost" color="neutral" @click="renewing = undefined">Leave it</UButton>
        </template>
      </UModal>
      <UModal
        :open="!!removing"
        :title="`Remove ${removing?.name ?? ''}?`"
        description="They are signed out everywhere at once, and cannot sign in any more."
        @update:open="open => open || (removing = undefined)"
      >
        <template #footer>
          <UButton
            color="error"
            @click="
              () => {
                const { id } = removing!
                removing = undefined
                void change(() => api(`/api/people/${id}`, { method: 'DELETE' }))
              }
            "
            >Remove</UButton
          >
          <UButton variant="ghost" color="neutral" @click="removing = undefined">Keep</UButton>
        </template>
      </UModal>
    </main>
  </div>
</template>
