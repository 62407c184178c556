<script setup lang="ts">
import { checkText } from '../../core/compose/text'
import { findBlock } from '../../core/definition/edits/edits'
import { FormulaError } from '../../core/formula/syntax'
import type { Choice } from '../composables/scope'

/** Text with values in it, written in place; `/` opens the picker at the caret. */
const {
  text,
  block,
  row,
  atRight = false,
} = defineProps<{
  text: string
  block: string
  row?: string
  /** it stands at the right of the page and opens to the left */ atRight?: boolean
}>()
const emit = defineEmits<{ commit: [text: string]; cancel: []; marks: [] }>()
const report = useReport()
const draft = ref(text)
const area = useTemplateRef('area')
const picking = ref<{ from: number; search: string }>()
const chosen = ref(0)
const scope = computed(() => scopeOfBlock(report.definition!, report.tree!.levels, block, row))
const choices = computed(() => choicesAt(scope.value, report.definition!))
const found = computed<Choice[]>(() => {
  if (!picking.value) return []
  const words = picking.value.search.toLowerCase().split(/\s+/).filter(Boolean)
  return choices.value
    .filter(choice => words.every(word => `${tell(choice.label)} ${choice.insert} ${tell(choice.hint)}`.toLowerCase().includes(word)))
    .slice(0, 60)
})
const fault = computed(() => {
  try {
    checkText(draft.value, scope.value, report.definition!.language)
    return ''
  } catch (error) {
    if (error instanceof FormulaError) return error.message
    throw error
  }
})
let closed = false

onMounted(() => {
  area.value!.focus()
  area.value!.select()
})

function input(): void {
  const at = area.value!.selectionStart
  if (!picking.value) {
    if (draft.value[at - 1] === '/' && !inFormula(at - 1)) picking.value = { from: at - 1, search: '' }
    chosen.value = 0
    return
  }
  const from = picking.value.from
  picking.value = draft.value[from] === '/' && at > from ? { from, search: draft.value.slice(from + 1, at) } : undefined
  chosen.value = 0
}

/** Inside {{ }} a slash divides. */
function inFormula(at: number): boolean {
  return draft.value.lastIndexOf('{{', at) > draft.value.lastIndexOf('}}', at - 1)
}

function pick(choice: Choice): void {
  const { from } = picking.value!
  const end = area.value!.selectionStart
  const insert = `{{ ${choice.insert} }}`
  draft.value = draft.value.slice(0, from) + insert + draft.value.slice(end)
  picking.value = undefined
  const caret = from + insert.length - (choice.insert.endsWith('()') ? 4 : 0)
  void nextTick(() => {
    area.value!.focus()
    area.value!.setSelectionRange(caret, caret)
  })
}

function key(event: KeyboardEvent): void {
  event.stopPropagation()
  if (picking.value && found.value.length) {
    if (event.key === 'ArrowDown') chosen.value = Math.min(chosen.value + 1, found.value.length - 1)
    else if (event.key === 'ArrowUp') chosen.value = Math.max(chosen.value - 1, 0)
    else if (event.key === 'Enter' || event.key === 'Tab') pick(found.value[chosen.value]!)
    else if (event.key === 'Escape') picking.value = undefined
    else return
    event.preventDefault()
    void nextTick(() => document.querySelector('[data-chosen]')?.scrollIntoView({ block: 'nearest' }))
    return
  }
  if ((event.ctrlKey || event.metaKey) && (event.key === 'b' || event.key === 'i')) {
    event.preventDefault()
    mark(event.key === 'b' ? '**' : '*')
    return
  }
  if (event.key === 'Escape') {
    closed = true
    emit('cancel')
  } else if (event.key === 'Enter' && !event.shiftKey) {
    event.preventDefault()
    commit()
  }
}

/** Ctrl B and Ctrl I put marks around what is selected; the text carries marks from then on. */
function mark(sign: string): void {
  const { selectionStart: from, selectionEnd: to } = area.value!
  const found = findBlock(report.definition!, block)
  if (from === to || !found) return
  draft.value = `${draft.value.slice(0, from)}${sign}${draft.value.slice(from, to)}${sign}${draft.value.slice(to)}`
  emit('marks')
  void nextTick(() => area.value!.setSelectionRange(from, to + 2 * sign.length))
}

function commit(): void {
  if (closed) return
  closed = true
  emit('commit', draft.value)
}
</script>

<template>
  <div class="absolute z-30 flex min-w-64 flex-col" :class="atRight ? 'items-end' : 'items-start'" @pointerdown.stop>
    <textarea
      ref="area"
      v-model="draft"
      rows="1"
      spellcheck="false"
      :aria-label="t('cellEditor.textOfTheCell')"
      :class="[
        'block field-sizing-content max-h-60 w-full min-w-64 max-w-[36rem] resize-none rounded-sm',
        'border-2 border-apricot-500 bg-white px-1.5 py-1 font-mono text-xs text-stone-900 shadow-lg outline-none',
      ]"
      @input="input"
      @keydown="key"
      @blur="commit"
    />
    <p v-if="fault && !picking" class="rounded-b bg-brick-50 px-2 py-1 text-xs text-brick-800 shadow" role="alert">{{ tell(fault) }}</p>
    <ul
      v-if="picking"
      class="mt-1 max-h-64 w-80 overflow-auto rounded-md border border-default bg-default py-1 shadow-lg"
      role="listbox"
      data-picker
    >
      <li
        v-for="(choice, index) in found"
        :key="choice.insert + choice.hint"
        role="option"
        :aria-selected="index === chosen"
        :data-chosen="index === chosen ? '' : undefined"
        class="flex cursor-pointer items-center gap-2 px-2.5 py-1 text-sm"
        :class="index === chosen ? 'bg-petrol-100 dark:bg-petrol-900' : ''"
        :style="choice.level === undefined ? {} : { '--level': levelColour(choice.level) }"
        @pointerdown.prevent="pick(choice)"
        @pointermove="chosen = index"
      >
        <span v-if="choice.level !== undefined" class="level-mark" /><UIcon v-else name="i-lucide-sigma" class="size-3.5 text-dimmed" />
        <span class="truncate">{{ tell(choice.label) }}</span><span class="ml-auto truncate pl-3 text-xs text-muted">{{
          tell(choice.hint)
        }}</span>
      </li>
      <li v-if="!found.length" class="px-2.5 py-1 text-sm text-muted">{{ t('cellEditor.nothingIsCalled', { search: picking.search }) }}</li>
    </ul>
    <p v-else-if="!fault" class="rounded-b bg-white/95 px-2 py-0.5 text-[11px] text-stone-500 shadow">
      {{ t('cellEditor.putsInAFieldEnter') }}
    </p>
  </div>
</template>
