<script setup lang="ts">
import type { Team } from '../../core/api/people'

/** Who is signed in, at the right of the bar. */
const me = useMe()
onMounted(() => {
  // the screen comes first
  if (!me.known) setTimeout(() => void me.read().catch(() => {}), 300)
})
/** Teams as which an author can look; asked for when the menu opens. */
const teams = shallowRef<Team[]>([])
async function opened(open: boolean): Promise<void> {
  if (open && me.author) teams.value = await api<Team[]>('/api/teams').catch(() => [])
}
const items = computed(() => [
  [{ label: me.person!.name, type: 'label' as const }],
  ...(teams.value.length
    ? [
        [
          {
            label: t('accountMenu.lookAsATeam'),
            icon: 'i-lucide-glasses',
            children: teams.value.map(team => ({ label: team.name, onSelect: () => lookAs(team) })),
          },
        ],
      ]
    : []),
  [
    { label: t('accountMenu.myAccount'), icon: 'i-lucide-user-round', to: '/account' },
    ...(me.person!.role === 'administrator'
      ? [
          { label: t('accountMenu.peopleAndTeams'), icon: 'i-lucide-users-round', to: '/people' },
          { label: t('common.guards'), icon: 'i-lucide-shield-check', to: '/guards' },
          { label: t('common.log'), icon: 'i-lucide-scroll-text', to: '/log' },
        ]
      : []),
  ],
  [{ label: t('accountMenu.signOut'), icon: 'i-lucide-log-out', onSelect: () => void me.signOut() }],
])
const initials = computed(() =>
  me
    .person!.name.split(/\s+/)
    .map(word => [...word][0])
    .filter((_, at, all) => at === 0 || at === all.length - 1)
    .join(''),
)
</script>

<template>
  <UDropdownMenu v-if="me.person" :items="items" :content="{ align: 'end' }" @update:open="opened"
    ><UButton size="sm" variant="outline" color="neutral" :aria-label="t('accountMenu.accountOf', { name: me.person.name })" data-account>{{
      initials
    }}</UButton></UDropdownMenu
  >
</template>
