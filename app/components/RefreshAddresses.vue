<script setup lang="ts">
import equal from 'fast-deep-equal'
import { readAnswers, answerWords } from '../../core/parameter/answers'
import type { ReportDefinition } from '../../core/definition/report'
import type { FiscalCalendar } from '../../core/books/calendar'

const sources = useSources()

/** Addresses under which a spreadsheet reads the rows of this report again and again. */
const { report, definition, answers, calendar } = defineProps<{
  report: string
  definition: ReportDefinition
  answers: Record<string, string>
  calendar?: FiscalCalendar
}>()
const emit = defineEmits<{ close: []; problem: [text: string] }>()
interface Known {
  id: string
  label: string
  answers: Record<string, string>
  output: { format: string; level?: string }
  until: string
  createdAt: string
  revokedAt: string | null
  lastUsedAt: string | null
  uses: number
}
const known = ref<Known[]>([])
const fresh = ref('')
const levels = computed(() => levelItems(definition))
const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10)
const wanted = reactive({
  label: '',
  format: 'csv',
  level: levels.value.at(-1)!.value,
  separator: 'comma',
  decimal: 'point',
  until: inDays(90),
  moving: false,
})
/** answers that stand at their default, which go on with the days where that is wanted */
const atDefault = computed(() => {
  const around = { today: sources.today, language: definition.language, ...(calendar ? { calendar } : {}) }
  const { values } = readAnswers(definition.parameters, {}, around)
  const now = readAnswers(definition.parameters, answers, around).values
  return definition.parameters
    .filter(parameter => !parameter.hidden && parameter.default && equal(values[parameter.name], now[parameter.name]))
    .map(parameter => parameter.name)
})
const words = (given: Record<string, string>) => {
  const { values } = readAnswers(definition.parameters, given, {
    today: sources.today,
    language: definition.language,
    ...(calendar ? { calendar } : {}),
  })
  return (
    definition.parameters
      .filter(parameter => given[parameter.name])
      .map(parameter => `${parameter.label}: ${answerWords(parameter, values)}`)
      .join(' · ') || t('refreshAddresses.allAnswersAtTheirDefaults')
  )
}
const fixed = computed(() =>
  Object.fromEntries(Object.entries(answers).filter(([name, value]) => value !== '' && !(wanted.moving && atDefault.value.includes(name)))),
)
async function load(): Promise<void> {
  try {
    known.value = await api<Known[]>(`/api/reports/${report}/addresses`)
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
onMounted(load)
async function make(): Promise<void> {
  try {
    const output =
      wanted.format === 'csv'
        ? { format: 'csv', level: wanted.level, separator: wanted.separator, decimal: wanted.decimal, guard: 'yes' }
        : { format: 'json', level: wanted.level }
    const { token } = await api<{ token: string }>(`/api/reports/${report}/addresses`, {
      method: 'POST',
      body: { label: wanted.label, answers: fixed.value, output, until: wanted.until },
    })
    fresh.value = `${location.origin}/refresh/${token}.${wanted.format}`
    await load()
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
const copied = ref(false)
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(fresh.value)
  copied.value = true
  setTimeout(() => (copied.value = false), 2000)
}
async function revoke(id: string): Promise<void> {
  try {
    await api(`/api/addresses/${id}`, { method: 'DELETE' })
    await load()
  } catch (error) {
    emit('problem', (error as Error).message)
  }
}
const today = new Date().toISOString().slice(0, 10)
const ended = (each: Known) =>
  each.revokedAt
    ? t('refreshAddresses.takenBack', { dayWords: dayWords(each.revokedAt) })
    : each.until < today
      ? t('refreshAddresses.ended', { day: dayWords(each.until) })
      : ''
</script>

<template>
  <aside
    class="bar flex w-[372px] shrink-0 flex-col border-l border-default"
    :aria-label="t('refreshAddresses.refreshAddresses')"
    data-refresh
    @keydown.esc="emit('close')"
  >
    <header class="flex items-center gap-2 px-4 pb-2 pt-3">
      <h2 class="font-display text-base font-semibold">{{ t('refreshAddresses.refreshAddresses') }}</h2>
      <UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :aria-label="t('common.close')"
        class="ml-auto"
        @click="emit('close')"
      />
    </header>
    <div class="grow space-y-4 overflow-auto px-4 pb-4 text-sm">
      <p class="text-muted">
        {{ t('refreshAddresses.aSpreadsheetThatReadsThis') }}
      </p>
      <div v-if="fresh" class="space-y-2 rounded-md border border-petrol-600 p-3" role="status">
        <p class="font-semibold">{{ t('refreshAddresses.copyItNowItIs') }}</p>
        <input
          class="w-full rounded-md border border-default bg-default px-2 py-1 font-mono text-xs"
          readonly
          :value="fresh"
          :aria-label="t('refreshAddresses.theNewAddress')"
          @focus="($event.target as HTMLInputElement).select()"
        />
        <UButton size="sm" :icon="copied ? 'i-lucide-check' : 'i-lucide-copy'" @click="copy">{{
          copied ? t('refreshAddresses.copied') : t('refreshAddresses.copy')
        }}</UButton>
      </div>
      <form v-else class="space-y-3" @submit.prevent="make">
        <UFormField :label="t('refreshAddresses.for')" size="sm"
          ><UInput v-model="wanted.label" size="sm" class="w-full" :placeholder="t('refreshAddresses.cashForecastWorkbook')"
        /></UFormField>
        <div class="flex gap-2">
          <UFormField :label="t('refreshAddresses.as')" size="sm"
            ><USelect
              v-model="wanted.format"
              :items="[
                { value: 'csv', label: t('common.csv') },
                { value: 'json', label: t('refreshAddresses.json') },
              ]"
              size="sm"
              class="w-24"
              :aria-label="t('refreshAddresses.as')"
          /></UFormField>
          <UFormField :label="t('refreshAddresses.rowsOf')" size="sm" class="grow"
            ><USelect v-model="wanted.level" :items="levels" size="sm" class="w-full" :aria-label="t('refreshAddresses.rowsOf')"
          /></UFormField>
        </div>
        <div v-if="wanted.format === 'csv'" class="flex gap-2">
          <UFormField :label="t('refreshAddresses.betweenFields')" size="sm" class="grow"
            ><USelect
              v-model="wanted.separator"
              :items="[
                { value: 'comma', label: t('runDownload.comma') },
                { value: 'semicolon', label: t('runDownload.semicolon') },
                { value: 'tab', label: t('runDownload.tab') },
              ]"
              size="sm"
              class="w-full"
              :aria-label="t('refreshAddresses.betweenFields')"
          /></UFormField>
          <UFormField :label="t('common.decimals')" size="sm" class="grow"
            ><USelect
              v-model="wanted.decimal"
              :items="[
                { value: 'point', label: '1.50' },
                { value: 'comma', label: '1,50' },
              ]"
              size="sm"
              class="w-full"
              :aria-label="t('common.decimals')"
          /></UFormField>
        </div>
        <UFormField :label="t('refreshAddresses.answersUntil')" size="sm"
          ><DayField v-model="wanted.until" class="w-44" :label="t('refreshAddresses.answersUntil')" :least="today"
        /></UFormField>
        <label v-if="atDefault.length" class="flex items-start gap-2"
          ><input v-model="wanted.moving" type="checkbox" class="mt-1 accent-petrol-700" /><span>{{
            t('refreshAddresses.answersAtTheirDefaultGo', {
              map: definition.parameters
                .filter(each => atDefault.includes(each.name))
                .map(each => each.label)
                .join(', '),
            })
          }}</span></label
        >
        <p class="text-muted">{{ words(fixed) }}</p>
        <UButton size="sm" type="submit" icon="i-lucide-link">{{ t('refreshAddresses.makeAnAddress') }}</UButton>
      </form>
      <section v-if="known.length">
        <h3 class="mb-1 font-semibold">{{ t('refreshAddresses.madeSoFar') }}</h3>
        <div
          v-for="each in known"
          :key="each.id"
          class="border-t border-default py-2"
          :class="ended(each) ? 'text-muted' : ''"
          :data-address="each.id"
        >
          <div class="flex items-start gap-2">
            <span class="grow"
              ><b>{{ each.label }}</b> · {{ each.output.format.toUpperCase() }}</span
            ><UButton v-if="!ended(each)" size="xs" variant="outline" color="neutral" @click="revoke(each.id)">{{
              t('common.takeBack')
            }}</UButton
            ><span v-else class="text-xs">{{ ended(each) }}</span>
          </div>
          <p class="text-xs text-muted">{{ words(each.answers) }}</p>
          <p class="text-xs text-muted">
            {{
              t('refreshAddresses.until', {
                dayWords: dayWords(each.until),
                what:
                  each.uses === 0
                    ? t('refreshAddresses.neverRead')
                    : t('refreshAddresses.readLast', {
                        what: each.uses === 1 ? t('refreshAddresses.once') : t('refreshAddresses.times', { uses: each.uses }),
                        moment: minuteWords(each.lastUsedAt!),
                      }),
              })
            }}
          </p>
        </div>
      </section>
    </div>
  </aside>
</template>
