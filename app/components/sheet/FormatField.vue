<script setup lang="ts">
import { checkText, defaultPattern, formatField } from '../../../core/compose/text'
import { singleValue } from '../../../core/value/textParts'
import { setField } from '../../../core/definition/edits/levels'
import type { FieldInfo } from '../../../core/formula/typed'
import { startOfDay } from '../../../core/value/moment'
import { dateFormat, momentFormat } from '../../../core/value/dateFormat'
import { decimal } from '../../../core/value/decimal'
import { numberFormat } from '../../../core/value/numberFormat'

/** The format of the field that a cell follows; all cells and totals of the field follow it too. */
const { report, definition, text, scope, write } = useSheetSelection()
const field = computed<FieldInfo | undefined>(() => {
  if (!text.value || !scope.value) return undefined
  try {
    return checkText(text.value, scope.value, definition.value.language).formulas.map(formatField).find(Boolean)
  } catch {
    return undefined
  }
})
const single = computed(() => (text.value ? singleValue(text.value) : undefined))
const own = computed(() => single.value?.pattern)
const current = computed(() => own.value ?? field.value?.format ?? (field.value && defaultPattern(field.value.type, field.value)) ?? '')
const sets: Record<string, string[]> = {
  moment: ['d MMM y HH:mm', 'dd/MM/yyyy HH:mm', 'yyyy-MM-dd HH:mm:ss', 'd MMM y', 'HH:mm'],
  date: ['d MMM y', 'd MMMM y', 'dd/MM/yyyy', 'dd.MM.yyyy', 'yyyy-MM-dd', 'EEE d MMM', 'MMM y', 'MMMM y', 'y'],
  number: ['#,##0.00', '#,##0', '#,##0.00;(#,##0.00)', '#,##0;(#,##0)', '¤#,##0.00', '#,##0.00 ¤¤', '0.00', '#,##0.0##', '0.0 %', '0'],
}
const patterns = computed(() => {
  const list = sets[field.value?.type ?? ''] ?? []
  return (current.value && !list.includes(current.value) ? [current.value, ...list] : list).map(pattern => ({
    pattern,
    sample: sample(pattern),
  }))
})
function sample(pattern: string): string {
  try {
    if (field.value?.type === 'moment') return momentFormat(pattern, definition.value.language)(startOfDay(report.today) + 34_205_000_000n)
    if (field.value?.type === 'date') return dateFormat(pattern, definition.value.language)(report.today)
    const print = numberFormat(pattern, definition.value.language)
    return `${print(decimal(120450, 2))}   ${print(decimal(-85, 1))}`.replaceAll('¤¤', 'EUR').replaceAll('¤', '€')
  } catch {
    return pattern
  }
}
const fault = ref('')
function set(pattern: string): void {
  fault.value = ''
  try {
    if (field.value!.type !== 'number') dateFormat(pattern, 'en')
    else numberFormat(pattern, 'en')
  } catch (error) {
    fault.value = (error as Error).message
    return
  }
  if (own.value !== undefined) return void write(`{{ ${single.value!.formula} | ${pattern} }}`)
  report.edit(t('common.format'), now => setField(now, key.value, { format: pattern }))
}
const key = computed(() => `${report.tree!.levels[field.value!.level]!.name}.${field.value!.path}`)
const currencies = computed(() =>
  field.value?.type === 'number'
    ? [...report.tree!.levels[field.value.level]!.fields.values()].filter(each => each.type === 'text' && /currency/.test(each.path))
    : [],
)
</script>

<template>
  <div v-if="field && sets[field.type]" class="space-y-1.5">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('common.format') }}</span>
      <PickField class="w-40" :aria-label="t('common.format')" :value="current" @pick="set($event)">
        <option v-for="each in patterns" :key="each.pattern" :value="each.pattern">{{ each.sample }}</option>
      </PickField>
    </label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('formatField.pattern') }}</span
      ><TextField mono class="w-40" :aria-label="t('formatField.pattern')" :value="current" @write="set($event)"
    /></label>
    <label v-if="currencies.length && !own" class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('formatField.currency') }}</span>
      <PickField
        class="w-40"
        :aria-label="t('formatField.currency')"
        :value="field.currency ?? ''"
        @pick="report.edit(t('formatField.currency'), now => setField(now, key, { currency: $event }))"
      >
        <option value="">{{ t('formatField.oneForAll') }}</option>
        <option v-for="each in currencies" :key="each.path" :value="each.path">{{ fieldTitle(each) }}</option>
      </PickField>
    </label>
    <p v-if="fault" class="text-xs text-error" role="alert">{{ tell(fault) }}</p>
    <p v-else class="text-xs text-muted">
      {{ own ? t('formatField.thisCellHasAPattern') : t('formatField.holdsForEveryCellAnd', { caption: field.caption }) }}
    </p>
  </div>
</template>
