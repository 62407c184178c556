<script setup lang="ts">
const { crumbs = [], home = false } = defineProps<{
  crumbs?: { label: string; to?: string }[]
  /** show the tabs of the home screens */ home?: boolean
}>()
const route = useRoute()
const commands = useCommands()
const sources = useSources()
const me = useMe()
const tabs = computed(() => [
  { label: t('common.library'), to: '/' },
  ...(me.author ? [{ label: t('common.sources'), to: '/sources' }] : []),
  ...(me.author ? [{ label: t('common.packs'), to: '/packs' }] : []),
  { label: t('common.runs'), to: '/runs' },
  // where documents are posted, for trying it out
  ...(me.author && sources.all.some(each => each.desk) ? [{ label: t('topBar.companyDesk'), to: '/desk' }] : []),
  ...(me.administrator ? [{ label: t('common.settings'), to: '/settings' }] : []),
])
const as = lookingAs()
const colorMode = useColorMode()
const dark = computed({ get: () => colorMode.value === 'dark', set: value => (colorMode.preference = value ? 'dark' : 'light') })
</script>

<template>
  <header class="bar flex h-[45px] shrink-0 items-center gap-4 border-b border-default px-4">
    <NuxtLink
      to="/"
      class="font-display text-[21px] font-semibold leading-none text-petrol-700 dark:text-petrol-300"
      :aria-label="t('topBar.estanteToTheLibrary')"
      >{{ t('common.estante') }}</NuxtLink
    >
    <nav v-if="home" class="flex gap-1" :aria-label="t('topBar.home')">
      <NuxtLink
        v-for="tab in tabs"
        :key="tab.to"
        :to="tab.to"
        class="rounded-md px-3 py-1.5 font-medium"
        :class="
          route.path === tab.to
            ? 'bg-petrol-100 text-petrol-800 dark:bg-petrol-900 dark:text-petrol-100'
            : 'text-muted hover:text-highlighted'
        "
        :aria-current="route.path === tab.to ? 'page' : undefined"
        >{{ tab.label }}</NuxtLink
      >
    </nav>
    <nav v-if="crumbs.length" class="flex min-w-0 items-center gap-1.5 truncate text-sm" :aria-label="t('topBar.whereYouAre')">
      <template v-for="(crumb, index) in crumbs" :key="index">
        <span v-if="index" class="text-dimmed">/</span>
        <NuxtLink v-if="crumb.to" :to="crumb.to" class="text-muted hover:text-highlighted">{{ crumb.label }}</NuxtLink>
        <span v-else class="truncate font-semibold">{{ crumb.label }}</span>
      </template>
    </nav>
    <slot name="middle" />
    <div class="ml-auto flex items-center gap-2.5">
      <UTooltip :text="t('topBar.searchOrRun')" :kbds="['ctrl', 'k']"
        ><UButton
          variant="ghost"
          color="neutral"
          size="sm"
          icon="i-lucide-search"
          :aria-label="t('topBar.searchOrRun')"
          @click="commands.open = true"
      /></UTooltip>
      <slot />
      <UButton
        variant="ghost"
        color="neutral"
        size="sm"
        :icon="dark ? 'i-lucide-sun' : 'i-lucide-moon'"
        :aria-label="dark ? t('topBar.lightColours') : t('topBar.darkColours')"
        @click="dark = !dark"
      />
      <AccountMenu />
    </div>
    <LazyCommandPalette />
  </header>
  <Notice v-if="as" :text="t('topBar.youLookAsDoesWhat', { name: as.name })"
    ><UButton size="xs" variant="outline" color="neutral" @click="lookAs(undefined)">{{ t('topBar.asMyselfAgain') }}</UButton></Notice
  >
</template>
