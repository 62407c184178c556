<script setup lang="ts">
import type { PackRunInfo } from '../../../core/api/packs'

/** How far a run of a pack is, and what it came to. */
const { run } = defineProps<{ run: PackRunInfo }>()
const marks: Record<PackRunInfo['state'], string> = {
  waiting: 'i-lucide-hourglass',
  running: 'i-lucide-loader-circle',
  sending: 'i-lucide-loader-circle',
  held: 'i-lucide-hand',
  done: 'i-lucide-check',
  failed: 'i-lucide-triangle-alert',
  dropped: 'i-lucide-circle-slash',
  cancelled: 'i-lucide-circle-slash',
}
const colours: Partial<Record<PackRunInfo['state'], string>> = {
  running: 'text-petrol-700 dark:text-petrol-300',
  sending: 'text-petrol-700 dark:text-petrol-300',
  held: 'text-warning',
  done: 'text-moss-700 dark:text-moss-300',
  failed: 'text-error',
}
</script>

<template>
  <span class="flex items-center gap-1.5 whitespace-nowrap" :class="colours[run.state] ?? 'text-muted'" :data-state="run.state"
    ><UIcon :name="marks[run.state]" class="size-4 shrink-0" :class="packGrows(run) && run.state !== 'waiting' ? 'animate-spin' : ''" />{{
      packStateWords(run)
    }}<span class="text-muted">{{ recentWords(run.startedAt) }}</span></span
  >
  <span v-if="run.ties?.failed.length" class="block text-xs text-error">{{
    t('packRunState.ofTieOutsFail', { failed: run.ties.failed.length, count: run.ties.count }, run.ties.failed.length)
  }}</span>
</template>
