<script setup lang="ts">
import type { EditorView } from '@codemirror/view'
import type { Proposal } from '../composables/editor'

/** An editor for a formula or an SQL text, with completion; a fault is underlined and said under it. */
const {
  language,
  label,
  lines = 2,
  hint,
  proposals = [],
  schema,
  fault,
} = defineProps<{
  language: 'formula' | 'sql'
  label: string
  lines?: number
  hint?: string
  proposals?: readonly Proposal[]
  schema?: Record<string, string[]>
  fault?: { from: number; to: number; message: string }
}>()
const emit = defineEmits<{ commit: [] }>()
const text = defineModel<string>({ required: true })
const place = useTemplateRef('place')
let view: EditorView | undefined
onMounted(async () => {
  const { createEditor, showFault } = await import('../composables/editor')
  if (!place.value) return
  view = createEditor({
    parent: place.value,
    language,
    text: text.value,
    label,
    lines,
    hint,
    proposals: () => proposals,
    schema,
    onChange: value => (text.value = value),
    onCommit: () => emit('commit'),
  })
  watch(
    () => fault,
    now => view && showFault(view, now),
    { immediate: true },
  )
})
watch(text, now => {
  if (view && now !== view.state.doc.toString()) view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: now } })
})
onBeforeUnmount(() => view?.destroy())
defineExpose({ focus: () => view?.focus() })
</script>

<template>
  <div>
    <div ref="place" data-code />
    <p v-if="fault" class="mt-1 text-sm text-error" role="alert">{{ tell(fault.message) }}</p>
  </div>
</template>
