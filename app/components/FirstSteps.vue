<script setup lang="ts">
/** What to do where there is nothing yet: tables first, then a report on them. */
const emit = defineEmits<{ files: []; server: [] }>()
const sources = useSources()
const me = useMe()
</script>

<template>
  <section class="mx-auto mt-12 max-w-xl space-y-4" data-first-steps>
    <template v-if="!me.author">
      <h1 class="font-display text-2xl font-semibold">{{ t('firstSteps.nothingToRunYet') }}</h1>
      <p>{{ t('firstSteps.reportsStandHereAsSoon') }}</p>
    </template>
    <template v-else-if="!sources.list.length && !me.administrator">
      <h1 class="font-display text-2xl font-semibold">{{ t('firstSteps.firstTablesToReportOn') }}</h1>
      <p>{{ t('firstSteps.anAdministratorOfEstanteAdds') }}</p>
    </template>
    <template v-else-if="!sources.list.length">
      <h1 class="font-display text-2xl font-semibold">{{ t('firstSteps.firstTablesToReportOn') }}</h1>
      <p>
        {{ t('firstSteps.dropAWorkbookOrCsv') }}
      </p>
      <div class="flex gap-2">
        <UButton icon="i-lucide-file-plus" @click="emit('files')">{{ t('common.addFiles') }}</UButton>
        <UButton variant="outline" color="neutral" icon="i-lucide-database" @click="emit('server')">{{
          t('firstSteps.connectAServer')
        }}</UButton>
      </div>
      <p class="text-sm text-muted">
        {{ t('firstSteps.toLookAroundFirst') }} <code class="font-mono">npm run demo</code>
        {{ t('firstSteps.startsWithAnInventedCompany') }}
      </p>
    </template>
    <template v-else>
      <h1 class="font-display text-2xl font-semibold">{{ t('firstSteps.nowAReport') }}</h1>
      <p>
        {{
          t('firstSteps.thereChooseTheTableThat', {
            map: sources.list.map(each => each.name).join(', '),
            what: t('firstSteps.isAre', sources.list.length),
          })
        }}
      </p>
      <UButton icon="i-lucide-plus" to="/new">{{ t('common.newReport') }}</UButton>
    </template>
  </section>
</template>
