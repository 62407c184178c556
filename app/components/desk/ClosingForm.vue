<script setup lang="ts">
import type { DeskOffer, DeskPeriod } from '../../../core/api/desk'
import { dayText, parseDay } from '../../../core/value/date'

/** A fiscal period that is over is closed: nothing is posted in it any more. The last one may be opened again. */
const props = defineProps<{ desk: DeskOffer }>()
const emit = defineEmits<{ posted: [] }>()
const { problem, posting, send } = useDeskPost(() => emit('posted'))
const date = ref(dayText(useSources().today))
const keyOf = (each: { year: string; number: string }) => `${each.year} ${each.number}`
const items = computed(() => props.desk.periods.map(each => ({ value: keyOf(each), label: each.name })))
const chosen = ref('')
watch(items, () => (chosen.value = items.value[0]?.value ?? ''), { immediate: true })
// a period is closed after its last day
watch(
  chosen,
  () => {
    const end = props.desk.periods.find(each => keyOf(each) === chosen.value)?.end
    const after = end === undefined ? undefined : dayText(parseDay(end)! + 1)
    if (after !== undefined && date.value < after) date.value = after
  },
  { immediate: true },
)
async function post(): Promise<void> {
  const [year = '', number = ''] = chosen.value.split(' ')
  await send({ kind: 'closing', closing: { year, number, date: date.value } })
}
async function open({ year, number }: DeskPeriod): Promise<void> {
  await send({ kind: 'closing', closing: { year, number } })
}
</script>

<template>
  <form :aria-label="t('deskPage.closePeriod')" @submit.prevent="post">
    <div class="flex flex-wrap items-end gap-4">
      <label class="text-sm">
        <span class="block text-muted">{{ t('common.date') }}</span>
        <DayField v-model="date" size="md" class="w-full" :label="t('common.date')" />
      </label>
      <label class="text-sm"
        ><span class="block text-muted">{{ t('deskPage.period') }}</span
        ><USelect v-model="chosen" :items="items" size="md" class="w-48" :aria-label="t('deskPage.period')"
      /></label>
      <UButton type="submit" :disabled="!chosen || posting">{{ t('deskPage.closeIt') }}</UButton>
      <p class="pb-1.5 text-sm text-muted">{{ t('deskPage.nothingIsPostedInIt') }}</p>
    </div>
    <p v-if="desk.closed" class="flex items-center gap-3 pt-3 text-sm" data-closed>
      {{ t('deskPage.closedLast', { name: desk.closed.name }) }}
      <UButton color="neutral" variant="outline" size="sm" :disabled="posting" @click="open(desk.closed)">{{
        t('deskPage.openItAgain')
      }}</UButton>
    </p>
    <p v-if="problem" class="pt-3 text-sm text-error" role="alert">{{ tell(problem) }}</p>
  </form>
</template>
