<script setup lang="ts">
/** The stand-in printer: what it has taken, as it would lie in the tray. */
interface Job {
  job: number
  at: string
  name: string
  copies: number
  sides: string
  tray?: string
  state: 'waiting' | 'printed'
}
useHead({ title: t('printerPage.printerEstante') })
const found = shallowRef<{ paper: boolean; jobs: Job[] }>()
const problem = ref('')
async function load(): Promise<void> {
  try {
    found.value = await api<{ paper: boolean; jobs: Job[] }>('/api/printer')
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
async function paper(there: boolean): Promise<void> {
  try {
    await api('/api/printer', { method: 'PUT', body: { paper: there } })
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const sides: Record<string, string> = {
  'one-sided': t('packRecipients.oneSided'),
  'two-sided-long-edge': t('packRecipients.twoSidedLong'),
  'two-sided-short-edge': t('packRecipients.twoSidedShort'),
}
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar home
      ><UButton
        size="sm"
        variant="outline"
        color="neutral"
        icon="i-lucide-refresh-cw"
        :aria-label="t('outboxPage.lookAgain')"
        @click="load"
    /></TopBar>
    <Notice v-if="problem" :text="problem" kind="error" />
    <main v-if="found" class="desk grow px-10 py-6 text-sm">
      <div class="mb-3 flex items-center gap-3">
        <h1 class="font-display text-lg font-semibold">{{ t('settingsPage.standInPrinter') }}</h1>
        <p class="text-muted">{{ t('printerPage.nothingIsPrinted') }}</p>
        <USwitch
          :model-value="found.paper"
          :label="found.paper ? t('printerPage.hasPaper') : t('printerPage.outOfPaper')"
          size="sm"
          class="ml-auto"
          @update:model-value="paper"
        />
      </div>
      <p v-if="!found.jobs.length" class="text-muted">{{ t('printerPage.noJobYet') }}</p>
      <table v-else class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default" data-jobs>
        <tbody>
          <tr v-for="(each, index) in found.jobs" :key="each.job" :class="index ? '[&>td]:border-t [&>td]:border-default' : ''">
            <td class="w-16 px-4 py-1.5 text-right tabular-nums text-muted">{{ each.job }}</td>
            <td class="px-3 py-1.5">
              <a :href="`/api/printer/${each.job}/sheets`" target="_blank" class="font-medium hover:underline">{{ each.name }}</a>
            </td>
            <td class="px-3 py-1.5 text-muted">
              {{ grouped(each.copies) }} {{ t('packRecipients.copiesWord', each.copies) }} · {{ sides[each.sides] ?? each.sides
              }}{{ each.tray ? ` · ${each.tray}` : '' }}
            </td>
            <td class="px-3 py-1.5" :class="each.state === 'waiting' ? 'text-warning' : 'text-moss-700 dark:text-moss-300'">
              {{ each.state === 'waiting' ? t('printerPage.waits') : t('printerPage.printed') }}
            </td>
            <td class="px-4 py-1.5 text-right text-muted">{{ recentWords(each.at) }}</td>
          </tr>
        </tbody>
      </table>
    </main>
  </div>
</template>
