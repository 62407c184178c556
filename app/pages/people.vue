<script setup lang="ts">
import { type PersonInfo, type Role, roles as roleNames } from '../../core/api/people'

/** Who can sign in, and what they may do. */
const me = useMe()
useHead({ title: t('peoplePage.peopleEstante') })
const people = shallowRef<PersonInfo[]>()
const problem = ref('')
const adding = ref(false)
const fresh = reactive({ name: '', signIn: '', role: 'reader' as Role, password: '' })
const fault = ref('')
const removing = shallowRef<PersonInfo>()
const roleItems = roleNames.map(value => ({ value, label: tell(value) }))
const roles = [
  { value: 'reader', label: t('peoplePage.readerRunsWhatIsPublished') },
  { value: 'author', label: t('peoplePage.authorBuildsAndPublishesReports') },
  { value: 'administrator', label: t('peoplePage.administratorPeopleSourcesAndSettings') },
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
  ...(each.byPassword
    ? [{ label: t('peoplePage.giveANewPassword'), icon: 'i-lucide-key-round', onSelect: () => void (renewing.value = each) }]
    : []),
  ...(each.second
    ? [
        {
          label: t('peoplePage.takeTheSecondFactorAway'),
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
          <h1 class="font-display text-lg font-semibold">{{ t('peoplePage.people') }}</h1>
          <UButton v-if="!adding" size="sm" icon="i-lucide-user-round-plus" class="ml-auto" @click="adding = true">{{
            t('peoplePage.addAPerson')
          }}</UButton>
        </div>
        <form v-if="adding" class="mb-4 rounded-md border border-default bg-default p-4 text-sm" data-new-person @submit.prevent="add">
          <div class="grid grid-cols-2 gap-3">
            <UFormField :label="t('common.name')" size="sm"
              ><UInput v-model="fresh.name" size="sm" class="w-full" autofocus :aria-label="t('common.name')" autocomplete="off"
            /></UFormField>
            <UFormField :label="t('peoplePage.signsInAs')" size="sm"
              ><UInput v-model="fresh.signIn" size="sm" class="w-full" :aria-label="t('peoplePage.signsInAs')" autocomplete="off"
            /></UFormField>
            <UFormField :label="t('peoplePage.mayDo')" size="sm"
              ><USelect v-model="fresh.role" :items="roles" size="sm" class="w-full" :aria-label="t('peoplePage.mayDo')"
            /></UFormField>
            <UFormField :label="t('peoplePage.firstPasswordWhichTheyChange')" size="sm"
              ><UInput v-model="fresh.password" size="sm" class="w-full" :aria-label="t('peoplePage.firstPassword')" autocomplete="off"
            /></UFormField>
          </div>
          <p v-if="fault" class="mt-2 text-error" role="alert">{{ tell(fault) }}</p>
          <div class="mt-3 flex gap-2">
            <UButton type="submit" size="sm" :disabled="!fresh.name || !fresh.signIn || !fresh.password">{{ t('common.add') }}</UButton>
            <UButton size="sm" variant="ghost" color="neutral" @click="adding = false">{{ t('common.cancel') }}</UButton>
          </div>
        </form>
        <table
          v-if="people"
          class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default text-sm"
          data-people
        >
          <thead>
            <tr class="text-left text-muted">
              <th class="px-4 py-2 font-medium">{{ t('common.name') }}</th>
              <th class="px-3 py-2 font-medium">{{ t('peoplePage.signsInAs') }}</th>
              <th class="px-3 py-2 font-medium">{{ t('peoplePage.mayDo') }}</th>
              <th class="px-3 py-2 font-medium">{{ t('common.teams') }}</th>
              <th class="px-3 py-2 font-medium">{{ t('peoplePage.since') }}</th>
              <th class="px-4 py-2" />
            </tr>
          </thead>
          <tbody>
            <tr v-for="each in people" :key="each.id" class="[&>td]:border-t [&>td]:border-default" :data-person="each.signIn">
              <td class="px-4 py-2 font-semibold">
                {{ each.name }}<span v-if="each.id === me.person?.id" class="ml-2 font-normal text-muted">{{ t('peoplePage.you') }}</span>
              </td>
              <td class="px-3 py-2 text-muted">{{ each.signIn }}</td>
              <td class="px-3 py-2">
                <USelect
                  :model-value="each.role"
                  :items="roleItems"
                  size="sm"
                  class="w-36"
                  :aria-label="t('peoplePage.whatMayDo', { name: each.name })"
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
                    :aria-label="t('peoplePage.moreFor', { name: each.name })" /></UDropdownMenu
                ><UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-user-round-minus"
                  :aria-label="t('common.remove', { name: each.name })"
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
        :title="t('peoplePage.aNewPasswordFor', { what: renewing?.name ?? '' })"
        :description="t('peoplePage.theyAreSignedOutEverywhere')"
        @update:open="open => open || (renewing = undefined)"
      >
        <template #body>
          <UInput
            v-model="renewed"
            class="w-full"
            autofocus
            :aria-label="t('peoplePage.theNewPassword')"
            autocomplete="off"
            @keydown.enter="renew"
          />
          <p v-if="fault" class="mt-2 text-sm text-error" role="alert">{{ tell(fault) }}</p>
        </template>
        <template #footer>
          <UButton :disabled="!renewed" @click="renew">{{ t('peoplePage.giveIt') }}</UButton>
          <UButton variant="ghost" color="neutral" @click="renewing = undefined">{{ t('common.leaveIt') }}</UButton>
        </template>
      </UModal>
      <UModal
        :open="!!removing"
        :title="t('peoplePage.remove', { what: removing?.name ?? '' })"
        :description="t('peoplePage.theyAreSignedOutEverywhere2')"
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
            >{{ t('common.remove2') }}</UButton
          >
          <UButton variant="ghost" color="neutral" @click="removing = undefined">{{ t('common.keep') }}</UButton>
        </template>
      </UModal>
    </main>
  </div>
</template>
