<script setup lang="ts">
import equal from 'fast-deep-equal'
import type { CompanyDays } from '../../../core/pack/companyDays'
import { parseDay } from '../../../core/value/date'

/** The clocks, working days and holidays by which packs are due. */
const kept = shallowRef<CompanyDays & { version: number }>()
const days = ref<CompanyDays>()
const problem = ref('')
const toast = useToast()
async function load(): Promise<void> {
  try {
    const found = await api<CompanyDays & { version: number }>('/api/company-days')
    const { version: _, ...own } = found
    kept.value = found
    days.value = structuredClone(own)
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
const changed = computed(() => {
  if (!kept.value) return false
  const { version: _, ...own } = kept.value
  return !equal(own, days.value)
})
async function keep(): Promise<void> {
  const { zone, workdays, holidays } = days.value!
  const sorted = [...holidays].sort((one, other) => one.day.localeCompare(other.day))
  try {
    await api('/api/company-days', { method: 'PUT', body: { zone, workdays, holidays: sorted, basedOn: kept.value!.version } })
    toast.add({ title: t('settingsPage.kept'), icon: 'i-lucide-check', color: 'success' })
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const zones = computed(() => [...new Set([...Intl.supportedValuesOf('timeZone'), 'UTC', ...(days.value ? [days.value.zone] : [])])])
const weekdays = weekdayItems()
const workdays = computed({
  get: () => days.value?.workdays.map(String) ?? [],
  set: (chosen: string[]) => (days.value!.workdays = chosen.map(Number).sort()),
})
const list = ref('')
/** Takes a list in: a day and a name on each line; a day that is there already takes the new name. */
function take(): void {
  const lines = list.value.split('\n').map(line => line.trim())
  const found = lines.map((line, at) => ({ at, line, day: line.slice(0, 10), name: line.slice(10).replace(/^[\s,;:–-]+/, '') }))
  const wrong = found.find(each => each.line && parseDay(each.day) === undefined)
  if (wrong) return void (problem.value = t('settingsPage.notRead', { line: wrong.at + 1 }))
  const own = new Map(days.value!.holidays.map(each => [each.day, each]))
  const fresh = found.filter(each => each.line)
  for (const { day, name } of fresh) own.set(day, { day, name })
  days.value!.holidays = [...own.values()].sort((one, other) => one.day.localeCompare(other.day))
  list.value = ''
  problem.value = ''
  toast.add({ title: t('settingsPage.taken', { count: fresh.length }, fresh.length) })
}
function add(): void {
  const year = new Date().getFullYear()
  days.value!.holidays.push({ day: `${year}-12-25`, name: '' })
}
</script>

<template>
  <SettingsCard :name="t('settingsPage.companyDays')" :problem="problem" :changed="changed" data-company-days @back="load" @keep="keep">
    <template #about>{{ t('settingsPage.byTheseThePacks') }}</template>
    <div v-if="days" class="grid grid-cols-[24rem_minmax(0,1fr)] gap-10">
      <div class="space-y-4">
        <div>
          <p class="mb-1 text-muted">{{ t('settingsPage.zone') }}</p>
          <USelectMenu v-model="days.zone" :items="zones" size="sm" class="w-full" :aria-label="t('settingsPage.zone')" />
        </div>
        <div>
          <p class="mb-1 text-muted">{{ t('settingsPage.workingDays') }}</p>
          <UCheckboxGroup
            v-model="workdays"
            :items="weekdays"
            value-key="value"
            orientation="horizontal"
            size="sm"
            :aria-label="t('settingsPage.workingDays')"
          />
        </div>
      </div>
      <div>
        <p class="mb-1 text-muted">{{ t('settingsPage.holidays') }}</p>
        <ul v-if="days.holidays.length" class="mb-2 max-h-72 max-w-xl divide-y divide-default overflow-y-auto">
          <li v-for="(each, at) in days.holidays" :key="at" class="flex items-center gap-2 py-1">
            <DayField v-model="each.day" size="sm" :label="t('settingsPage.dayOfHoliday', { what: at + 1 })" />
            <UInput
              v-model="each.name"
              size="sm"
              class="grow"
              :placeholder="t('settingsPage.nameOfHoliday')"
              :aria-label="t('settingsPage.nameOfHoliday')"
            />
            <UButton
              size="xs"
              variant="ghost"
              color="neutral"
              icon="i-lucide-x"
              :aria-label="t('settingsPage.removeHoliday', { name: each.name || each.day })"
              @click="days.holidays.splice(at, 1)"
            />
          </li>
        </ul>
        <p v-else class="mb-2 text-muted">{{ t('settingsPage.noHolidays') }}</p>
        <div class="flex max-w-xl items-start gap-2">
          <UButton size="sm" variant="outline" color="neutral" icon="i-lucide-plus" @click="add">{{
            t('settingsPage.addHoliday')
          }}</UButton>
          <UTextarea
            v-model="list"
            size="sm"
            :rows="1"
            autoresize
            class="grow"
            :placeholder="t('settingsPage.pasteHolidays')"
            :aria-label="t('settingsPage.pasteHolidays')"
          />
          <UButton v-if="list.trim()" size="sm" @click="take">{{ t('common.add') }}</UButton>
        </div>
      </div>
    </div>
  </SettingsCard>
</template>
