<script setup lang="ts">
import { parseTime, type Time } from '@internationalized/date'
import type { PackDefinition } from '../../../core/pack/definition'
import { type DayRule, type OffDay, offDays, type When } from '../../../core/pack/when'

/** When a pack is due: at times of days, when something happens, or whenever somebody runs it; with the next times. */
const pack = defineModel<PackDefinition>({ required: true })
const sources = useSources()
const me = useMe()
onMounted(() => {
  if (!sources.all.length) void sources.load().catch(() => {})
})
type Kind = When['is'] | 'never'
const kinds = computed(() => [
  { value: 'never' as Kind, label: t('packWhen.whenSomebodyRunsIt') },
  { value: 'times' as Kind, label: t('packWhen.atTimes') },
  { value: 'closed' as Kind, label: t('packWhen.whenAPeriodIsClosed') },
  ...(sources.all.length ? [{ value: 'refreshed' as Kind, label: t('packWhen.whenASourceIsRefreshed') }] : []),
])
const kind = computed({
  get: (): Kind => pack.value.when?.is ?? 'never',
  set: (is: Kind) => {
    if (is === 'never') delete pack.value.when
    else if (is === 'times') pack.value.when = { is, days: { on: 'days', offDay: 'leave' }, at: '07:00' }
    else if (is === 'closed') pack.value.when = { is }
    else pack.value.when = { is, source: sources.current?.id ?? sources.all[0]!.id }
  },
})
const times = computed(() => (pack.value.when?.is === 'times' ? pack.value.when : undefined))
const refreshed = computed(() => (pack.value.when?.is === 'refreshed' ? pack.value.when : undefined))
type On = 'days' | 'weekdays' | 'monthDay' | 'workingDay week' | 'workingDay month' | 'afterPeriod'
const ons: { value: On; label: string }[] = [
  { value: 'days', label: t('packWhen.eachDay') },
  { value: 'weekdays', label: t('packWhen.onDaysOfTheWeek') },
  { value: 'monthDay', label: t('packWhen.onADayOfTheMonth') },
  { value: 'workingDay week', label: t('packWhen.onAWorkingDayOfTheWeek') },
  { value: 'workingDay month', label: t('packWhen.onAWorkingDayOfTheMonth') },
  { value: 'afterPeriod', label: t('packWhen.onAWorkingDayAfterEachPeriod') },
]
const fresh: Record<On, () => DayRule> = {
  days: () => ({ on: 'days', offDay: 'leave' }),
  weekdays: () => ({ on: 'weekdays', weekdays: [1], offDay: 'after' }),
  monthDay: () => ({ on: 'monthDay', day: 1, offDay: 'after' }),
  'workingDay week': () => ({ on: 'workingDay', of: 'week', nth: 1 }),
  'workingDay month': () => ({ on: 'workingDay', of: 'month', nth: 1 }),
  afterPeriod: () => ({ on: 'afterPeriod', nth: 3 }),
}
const on = computed({
  get: (): On => {
    const rule = times.value!.days
    return rule.on === 'workingDay' ? `workingDay ${rule.of}` : rule.on
  },
  set: (value: On) => (times.value!.days = fresh[value]()),
})
const weekdays = weekdayItems()
const weekdayTexts = computed({
  get: () => (times.value?.days.on === 'weekdays' ? times.value.days.weekdays.map(String) : []),
  set: (list: string[]) => {
    if (times.value?.days.on === 'weekdays') times.value.days.weekdays = list.map(Number).sort()
  },
})
const offItems: { value: OffDay; label: string }[] = offDays.map(value => ({
  value,
  label: { stay: t('packWhen.offStay'), before: t('packWhen.offBefore'), after: t('packWhen.offAfter'), leave: t('packWhen.offLeave') }[
    value
  ],
}))
const missedItems = [
  { value: 'once' as const, label: t('packWhen.madeUpOnce') },
  { value: 'leave' as const, label: t('packWhen.leftOut') },
]
/** Counted from the end where it is below zero. */
const fromEnd = [
  { value: false, label: t('packWhen.fromTheBeginning') },
  { value: true, label: t('packWhen.fromTheEnd') },
]
const counted = (nth: number, back: boolean) => (back ? -1 : 1) * Math.abs(nth)
const at = computed({
  get: () => parseTime(times.value!.at),
  set: (time: Time) => (times.value!.at = `${String(time.hour).padStart(2, '0')}:${String(time.minute).padStart(2, '0')}`),
})
const next = ref<string[]>([])
const zone = ref('')
const problem = ref('')
onMounted(async () => {
  zone.value = (await api<{ zone: string }>('/api/company-days').catch(() => ({ zone: '' }))).zone
})
watchDebounced(
  () => JSON.stringify(pack.value.when),
  async () => {
    problem.value = ''
    if (pack.value.when?.is !== 'times') return void (next.value = [])
    try {
      next.value = (await api<{ next: string[] }>('/api/packs/next', { method: 'POST', body: { definition: pack.value } })).next
    } catch (error) {
      problem.value = (error as Error).message
    }
  },
  { debounce: 200, immediate: true },
)
const shown = (moment: string) =>
  new Date(moment).toLocaleString(locale(), {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    ...(zone.value ? { timeZone: zone.value } : {}),
  })
</script>

<template>
  <section :aria-label="t('packWhen.when')" data-when>
    <h2 class="mb-2 font-semibold">{{ t('packWhen.when') }}</h2>
    <div class="flex gap-8 rounded-md border border-default bg-default px-3 py-2.5">
      <div class="grow space-y-2">
        <div class="flex flex-wrap items-center gap-2">
          <USelect v-model="kind" :items="kinds" size="sm" class="w-64" :aria-label="t('packWhen.due')" />
          <USelect
            v-if="refreshed"
            v-model="refreshed.source"
            :items="sources.all.map(each => ({ value: each.id, label: each.name }))"
            size="sm"
            class="w-56"
            :aria-label="t('common.source')"
          />
        </div>
        <template v-if="times">
          <div class="flex flex-wrap items-center gap-2">
            <USelect v-model="on" :items="ons" size="sm" class="w-64" :aria-label="t('packWhen.days')" />
            <template v-if="times.days.on === 'monthDay'">
              <UInputNumber
                :model-value="Math.abs(times.days.day)"
                :min="1"
                :max="31"
                size="sm"
                class="w-24"
                :aria-label="t('packWhen.day')"
                @update:model-value="value => times!.days.on === 'monthDay' && (times!.days.day = counted(value ?? 1, times!.days.day < 0))"
              />
              <USelect
                :model-value="times.days.day < 0"
                :items="fromEnd"
                size="sm"
                class="w-44"
                :aria-label="t('packWhen.counted')"
                @update:model-value="value => times!.days.on === 'monthDay' && (times!.days.day = counted(times!.days.day, !!value))"
              />
            </template>
            <template v-else-if="times.days.on === 'workingDay' || times.days.on === 'afterPeriod'">
              <UInputNumber
                :model-value="Math.abs(times.days.nth)"
                :min="1"
                :max="23"
                size="sm"
                class="w-24"
                :aria-label="t('packWhen.whichWorkingDay')"
                @update:model-value="value => 'nth' in times!.days && (times!.days.nth = counted(value ?? 1, times!.days.nth < 0))"
              />
              <USelect
                v-if="times.days.on === 'workingDay'"
                :model-value="times.days.nth < 0"
                :items="fromEnd"
                size="sm"
                class="w-44"
                :aria-label="t('packWhen.counted')"
                @update:model-value="value => 'nth' in times!.days && (times!.days.nth = counted(times!.days.nth, !!value))"
              />
            </template>
            <span class="text-muted">{{ t('packWhen.at') }}</span>
            <UInputTime
              :model-value="at as never"
              size="sm"
              :hour-cycle="24"
              :locale="locale()"
              :aria-label="t('packWhen.time')"
              data-time
              @update:model-value="value => value && (at = value as never)"
            />
          </div>
          <UCheckboxGroup
            v-if="times.days.on === 'weekdays'"
            v-model="weekdayTexts"
            :items="weekdays"
            value-key="value"
            orientation="horizontal"
            size="sm"
            :aria-label="t('packWhen.onDaysOfTheWeek')"
          />
          <div v-if="'offDay' in times.days" class="flex items-center gap-2">
            <span class="text-muted">{{ t('packWhen.onADayOff') }}</span>
            <USelect v-model="times.days.offDay" :items="offItems" size="sm" class="w-64" :aria-label="t('packWhen.onADayOff')" />
          </div>
        </template>
        <div v-if="pack.when" class="flex items-center gap-2">
          <span class="text-muted">{{ t('packWhen.missed') }}</span>
          <USelect v-model="pack.missed" :items="missedItems" size="sm" class="w-64" :aria-label="t('packWhen.missed')" />
        </div>
        <p v-if="problem" class="text-error" role="alert">{{ tell(problem) }}</p>
        <p v-if="pack.when" class="text-xs text-muted">{{ t('packWhen.asksItsDefaults') }}</p>
      </div>
      <div v-if="times" class="w-56 shrink-0" data-next>
        <h3 class="mb-1 text-muted">{{ t('packWhen.nextTimes') }}</h3>
        <ol v-if="next.length" class="tabular-nums">
          <li v-for="each in next" :key="each">{{ shown(each) }}</li>
        </ol>
        <p v-else class="text-muted">{{ t('packWhen.noneInTwoYears') }}</p>
        <p v-if="zone" class="mt-1 text-xs text-muted">
          {{ t('packWhen.byTheClocksOf', { zone }) }}
          <NuxtLink v-if="me.administrator" to="/settings" class="underline">{{ t('packWhen.holidays') }}</NuxtLink>
        </p>
      </div>
    </div>
  </section>
</template>
