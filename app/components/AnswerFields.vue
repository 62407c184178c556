<script setup lang="ts">
import { monthStart, dayText, parseDay } from '../../core/value/date'
import { clock } from '../../demo/clock'
import type { ParameterDefinition } from '../../core/definition/types'

/** The reader's form: one field per parameter, in a line. */
const { parameters, problems, report } = defineProps<{ report: string, parameters: readonly ParameterDefinition[], problems: Record<string, string> }>()
const answers = defineModel<Record<string, string>>({ required: true })
const set = (name: string, value: string) => answers.value = { ...answers.value, [name]: value }

const months = computed(() => {
  const list: { value: string, label: string }[] = []
  for (let day = monthStart(clock), count = 0; count < 36; count++) {
    const text = dayText(day).slice(0, 7)
    list.push({ value: text, label: inWords(day) })
    day = monthStart(day - 1)
  }
  return list
})
const inWords = (day: number) => new Intl.DateTimeFormat('en', { month: 'long', year: 'numeric', timeZone: 'UTC' }).format(new Date(day * 86400000))
const monthLabel = (text: string) => {
  const day = parseDay(text)
  return day === undefined ? text : inWords(day)
}
const monthItems = computed(() => months.value.map(month => ({ label: month.label, value: month.value })))

const searches = reactive<Record<string, string>>({})
const choices = reactive<Record<string, { value: string, label: string }[]>>({})
const busy = reactive<Record<string, boolean>>({})
async function find(name: string, search: string): Promise<void> {
  busy[name] = true
  try {
    choices[name] = await api(`/api/choices?${new URLSearchParams({ report, parameter: name, search })}`)
  } catch {
    choices[name] = []
  } finally {
    busy[name] = false
  }
}
const findSoon = useDebounceFn(find, 120)
watch(searches, () => {
  for (const parameter of parameters) if (parameter.choices && searches[parameter.name] !== undefined) void findSoon(parameter.name, searches[parameter.name]!)
})
onMounted(() => parameters.filter(parameter => parameter.choices).forEach(parameter => void find(parameter.name, answers.value[parameter.name] ?? '')))
const chosenLabel = (parameter: ParameterDefinition) => choices[parameter.name]?.find(choice => choice.value === answers.value[parameter.name])?.label ?? answers.value[parameter.name]
</script>

<template>
  <div class="flex flex-wrap items-start gap-4">
    <div v-for="parameter in parameters" :key="parameter.name" class="flex items-start gap-2" :data-parameter="parameter.name">
      <label :for="`answer-${parameter.name}`" class="pt-1.5 text-sm text-muted" :title="parameter.help">{{ parameter.label }}</label>
      <div>
        <USelectMenu
          v-if="parameter.kind === 'month'" :id="`answer-${parameter.name}`" :model-value="answers[parameter.name]" :items="monthItems" value-key="value" size="sm" class="w-44" :search-input="{ placeholder: 'Find a month' }"
          :placeholder="answers[parameter.name] ? monthLabel(answers[parameter.name]!) : 'Choose a month'" @update:model-value="(value: string) => set(parameter.name, value)"
        ><template #default>{{ answers[parameter.name] ? monthLabel(answers[parameter.name]!) : 'Choose a month' }}</template></USelectMenu>
        <div v-else-if="parameter.kind === 'choice'" class="flex items-center gap-1">
          <USelectMenu
            :id="`answer-${parameter.name}`" v-model:search-term="searches[parameter.name]" :model-value="answers[parameter.name]" :items="choices[parameter.name] ?? []" value-key="value" label-key="label" ignore-filter size="sm" class="w-64" :loading="busy[parameter.name]"
            :search-input="{ placeholder: `Find a ${parameter.label.toLowerCase()}` }" @update:model-value="(value: string) => set(parameter.name, value)"
          >
            <template #default>{{ answers[parameter.name] ? chosenLabel(parameter) : 'all' }}</template>
            <template #item-trailing="{ item }"><span class="text-xs text-muted">{{ item.value }}</span></template>
          </USelectMenu>
          <UButton v-if="answers[parameter.name]" size="xs" variant="ghost" color="neutral" icon="i-lucide-x" :aria-label="`All, no ${parameter.label.toLowerCase()} chosen`" @click="set(parameter.name, '')" />
        </div>
        <USwitch v-else-if="parameter.kind === 'boolean'" :id="`answer-${parameter.name}`" :model-value="answers[parameter.name] === 'yes'" @update:model-value="(on: boolean) => set(parameter.name, on ? 'yes' : 'no')" />
        <UInput v-else :id="`answer-${parameter.name}`" size="sm" :type="parameter.kind === 'date' ? 'date' : 'text'" :model-value="answers[parameter.name] ?? ''" class="w-40" @change="set(parameter.name, ($event.target as HTMLInputElement).value)" />
        <p v-if="problems[parameter.name]" class="max-w-64 pt-1 text-xs text-error" role="alert">{{ problems[parameter.name] }}</p>
      </div>
    </div>
  </div>
</template>
