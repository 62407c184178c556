<script setup lang="ts">
/** Ctrl K: all that can be done here, and all reports, each found by a few letters. */
const commands = useCommands()
const me = useMe()
const shelves = shallowRef<{ name: string; reports: { id: string; name: string; edit?: boolean }[] }[]>([])
defineShortcuts({ meta_k: { usingInput: true, handler: () => (commands.open = !commands.open) } })
watch(
  () => commands.open,
  async open => {
    if (open) shelves.value = await api<typeof shelves.value>('/api/library').catch(() => [])
  },
)
const places = computed(() => [
  ...(me.author ? [{ label: t('common.sources'), icon: 'i-lucide-database', to: '/sources' }] : []),
  ...(me.author ? [{ label: t('common.packs'), icon: 'i-lucide-package', to: '/packs' }] : []),
  { label: t('common.runs'), icon: 'i-lucide-list-video', to: '/runs' },
  ...(me.person ? [{ label: t('commandPalette.myAccount'), icon: 'i-lucide-user-round', to: '/account' }] : []),
  ...(me.administrator ? [{ label: t('common.settings'), icon: 'i-lucide-settings', to: '/settings' }] : []),
  ...(me.person?.role === 'administrator'
    ? [
        { label: t('commandPalette.peopleAndTeams'), icon: 'i-lucide-users-round', to: '/people' },
        { label: t('common.guards'), icon: 'i-lucide-shield-check', to: '/guards' },
        { label: t('common.log'), icon: 'i-lucide-scroll-text', to: '/log' },
        { label: t('outboxPage.outbox'), icon: 'i-lucide-mail', to: '/outbox' },
        { label: t('settingsPage.standInPrinter'), icon: 'i-lucide-printer', to: '/printer' },
      ]
    : []),
])
const groups = computed(() => {
  const names = [...new Set(commands.all.map(each => each.group))]
  return [
    ...names.map(name => ({
      id: name,
      label: name,
      items: commands.all
        .filter(each => each.group === name)
        .map(each => ({
          label: each.label,
          suffix: each.hint,
          icon: each.icon ?? 'i-lucide-chevron-right',
          kbds: each.keys,
          onSelect: () => choose(each.run),
        })),
    })),
    {
      id: 'reports',
      label: t('commandPalette.reports'),
      items: shelves.value.flatMap(shelf =>
        shelf.reports.map(report => ({
          label: report.name,
          suffix: shelf.name,
          icon: 'i-lucide-file-text',
          onSelect: () => choose(() => navigateTo(me.author && report.edit !== false ? `/reports/${report.id}/page` : `/run/${report.id}`)),
        })),
      ),
    },
    {
      id: 'places',
      label: t('commandPalette.places'),
      items: [
        { label: t('common.library'), icon: 'i-lucide-library', onSelect: () => choose(() => navigateTo('/')) },
        ...places.value.map(({ label, icon, to }) => ({ label, icon, onSelect: () => choose(() => navigateTo(to)) })),
      ],
    },
  ]
})
/** The list has a name for those who hear it. */
const palette = useTemplateRef<HTMLElement>('palette')
watch(
  palette,
  box =>
    void nextTick(() => {
      box?.querySelector('[role=listbox]')?.setAttribute('aria-label', 'Commands, fields and reports')
    }),
)
function choose(run: () => unknown): void {
  commands.open = false
  // the dialog gives the focus back first
  setTimeout(() => void run(), 60)
}
</script>

<template>
  <UModal
    v-model:open="commands.open"
    :title="t('commandPalette.searchOrRun')"
    :description="t('commandPalette.commandsFieldsAndReports')"
    :ui="{ content: 'max-w-xl top-[12%] translate-y-0 sm:top-[12%]' }"
  >
    <template #content>
      <div ref="palette">
        <UCommandPalette
          :groups="groups"
          :placeholder="t('commandPalette.whatWouldYouLikeTo')"
          :fuse="{ resultLimit: 40, fuseOptions: { ignoreLocation: true, threshold: 0.2, keys: ['label', 'suffix'] } }"
          class="h-96"
          close
          @update:open="commands.open = $event"
        >
          <template #empty
            ><p class="p-4 text-sm text-muted">{{ t('commandPalette.nothingIsCalledThatHere') }}</p></template
          >
        </UCommandPalette>
      </div>
    </template>
  </UModal>
</template>
