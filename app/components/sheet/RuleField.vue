<script setup lang="ts">
import { checkFormula } from '../../../core/formula/check'
import type { Scope } from '../../../core/formula/typed'
import { FormulaError } from '../../../core/formula/syntax'

/**
 * One line for a formula. While it is written it is the editor of the Data stage; a fault keeps what was written and says what is
 * wrong.
 */
const {
  value,
  scope,
  label,
  hint = 'always',
  test = true,
} = defineProps<{ value: string; scope: Scope | undefined; label: string; hint?: string; test?: boolean }>()
const emit = defineEmits<{ set: [value: string] }>()
const draft = ref(value)
const fault = ref<{ from: number; to: number; message: string }>()
const writing = ref(false)
const editor = useTemplateRef<{ focus: () => void }>('editor')
const report = useReport()
const proposals = computed(() => (scope ? proposalsAt(scope, report.definition!) : []))
watch(
  () => value,
  now => {
    draft.value = now
    fault.value = undefined
  },
)
function begin(): void {
  writing.value = true
  // the editor comes in a moment, since it is loaded when it is first needed
  const tries = setInterval(() => editor.value?.focus(), 30)
  setTimeout(() => clearInterval(tries), 400)
}
function commit(): void {
  if (draft.value.trim() === value) {
    writing.value = false
    return
  }
  fault.value = scope && draft.value.trim() ? faultIn(draft.value.trim()) : undefined
  if (fault.value) return
  writing.value = false
  emit('set', draft.value.trim())
}
function faultIn(text: string): typeof fault.value {
  try {
    const typed = checkFormula(text, { ...scope!, page: false })
    return test && typed.type !== 'boolean' ? { from: 0, to: text.length, message: t('ruleField.aRuleMustBeA') } : undefined
  } catch (error) {
    return error instanceof FormulaError
      ? { from: error.from, to: error.to, message: error.message }
      : { from: 0, to: 0, message: (error as Error).message }
  }
}
function left(event: FocusEvent): void {
  if (!(event.currentTarget as HTMLElement).contains(event.relatedTarget as Node | null)) commit()
}
function key(event: KeyboardEvent): void {
  event.stopPropagation()
  if (event.key === 'Escape') {
    draft.value = value
    fault.value = undefined
    writing.value = false
  } else if (event.key === 'Enter' && !event.shiftKey && !(event.currentTarget as HTMLElement).querySelector('.cm-tooltip-autocomplete')) {
    event.preventDefault()
    commit()
  }
}
</script>

<template>
  <div class="block">
    <span class="text-muted">{{ label }}</span>
    <div v-if="writing && scope" class="mt-0.5" @focusout="left" @keydown.capture="key">
      <CodeField
        ref="editor"
        v-model="draft"
        language="formula"
        :label="label"
        :lines="1"
        :hint="hint"
        :proposals="proposals"
        v-bind="fault ? { fault } : {}"
        @commit="commit"
      />
    </div>
    <input
      v-else
      v-model="draft"
      class="mt-0.5 w-full rounded-md border border-default bg-default px-2 py-1 font-mono text-xs"
      :placeholder="hint"
      :aria-label="label"
      @focus="scope && begin()"
      @change="commit"
      @keydown.stop
    />
  </div>
</template>
