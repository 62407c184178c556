<script setup lang="ts">
import type { Scope } from '../../../core/formula/check'

/** One line for a formula; a fault keeps what was written and says what is wrong. */
const { value, scope, label, hint = 'always', test = true } = defineProps<{ value: string, scope: Scope | undefined, label: string, hint?: string, test?: boolean }>()
const emit = defineEmits<{ set: [value: string] }>()
const draft = ref(value)
const fault = ref('')
watch(() => value, now => [draft.value, fault.value] = [now, ''])
function commit(): void {
  if (draft.value === value) return
  fault.value = scope ? faultOf(draft.value, scope, test) : ''
  if (!fault.value) emit('set', draft.value.trim())
}
const listed = useId()
const report = useReport()
const proposals = computed(() => scope ? proposalsAt(scope, report.definition!).filter(each => each.kind !== 'function').slice(0, 80) : [])
</script>

<template>
  <label class="block"><span class="text-muted">{{ label }}</span>
    <input v-model="draft" :list="listed" class="mt-0.5 w-full rounded-md border border-default bg-default px-2 py-1 font-mono text-xs" :class="fault ? 'border-error' : ''" :placeholder="hint" :aria-label="label" @change="commit" @keydown.enter.prevent="commit" @keydown.stop>
    <datalist :id="listed"><option v-for="each in proposals" :key="each.insert" :value="each.insert">{{ each.label }}</option></datalist>
    <span v-if="fault" class="text-xs text-error" role="alert">{{ fault }}</span>
  </label>
</template>
