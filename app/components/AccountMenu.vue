<script setup lang="ts">
/** Who is signed in, at the right of the bar. */
const me = useMe()
onMounted(() => {
  // the screen comes first
  if (!me.known) setTimeout(() => void me.read().catch(() => {}), 300)
})
const items = computed(() => [
  [{ label: me.person!.name, type: 'label' as const }],
  [
    { label: 'My account', icon: 'i-lucide-user-round', to: '/account' },
    ...(me.person!.role === 'administrator'
      ? [
          { label: 'People', icon: 'i-lucide-users-round', to: '/people' },
          { label: 'Log', icon: 'i-lucide-scroll-text', to: '/log' },
        ]
      : []),
  ],
  [{ label: 'Sign out', icon: 'i-lucide-log-out', onSelect: () => void me.signOut() }],
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
  <UDropdownMenu v-if="me.person" :items="items" :content="{ align: 'end' }"
    ><UButton size="sm" variant="outline" color="neutral" :aria-label="`Account of ${me.person.name}`" data-account>{{
      initials
    }}</UButton></UDropdownMenu
  >
</template>
