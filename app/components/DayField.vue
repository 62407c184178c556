<script setup lang="ts">
import { CalendarDate, type DateValue, parseDate } from '@internationalized/date'

/** A day as 2026-09-30, typed part by part or chosen in a calendar, in the order of the interface's language on every machine. */
const {
  modelValue = '',
  label = undefined,
  size = 'sm',
  least = undefined,
  clearable = false,
} = defineProps<{ modelValue?: string | undefined; label?: string; size?: 'xs' | 'sm' | 'md'; least?: string; clearable?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [day: string] }>()
defineOptions({ inheritAttrs: false })

const day = computed(() => {
  try {
    return modelValue ? parseDate(modelValue) : undefined
  } catch {
    return undefined
  }
})
/** Days before the first year of four digits are being typed still. */
function set(value: DateValue | undefined | null): void {
  const text = value ? new CalendarDate(value.year, value.month, value.day).toString() : ''
  if ((value && value.year < 1000) || text === modelValue) return
  emit('update:modelValue', text)
}
const open = ref(false)
function choose(value: unknown): void {
  set(value as DateValue)
  open.value = false
}
const own = useAttrs()
const shape = computed(() => own.class as string | undefined)
const id = computed(() => own.id as string | undefined)
</script>

<template>
  <UInputDate
    :id="id"
    :class="shape"
    :model-value="day as never"
    :size="size"
    :locale="locale()"
    :aria-label="label"
    :ui="{ trailing: 'pe-1' }"
    @keydown.stop
    @update:model-value="value => set(value as DateValue | undefined)"
  >
    <template #trailing>
      <UButton
        v-if="clearable && modelValue"
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :aria-label="t('dayField.no', { what: label ?? t('dayField.day') })"
        @click="emit('update:modelValue', '')"
      />
      <UPopover v-model:open="open">
        <UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-calendar"
          :aria-label="t('dayField.chooseInACalendar', { what: label ?? t('dayField.aDay') })"
        />
        <template #content
          ><UCalendar
            class="p-2"
            size="sm"
            :locale="locale()"
            :model-value="day as never"
            :week-starts-on="1"
            v-bind="least ? { minValue: parseDate(least) as never } : {}"
            @update:model-value="choose"
        /></template>
      </UPopover>
    </template>
  </UInputDate>
</template>
