<script setup lang="ts">
import { footnotesOf } from '../../core/definition/edits/footnotes'
import { layoutNamed } from '../../core/definition/walk'
import type { ReportDefinition } from '../../core/definition/report'

/** Footnotes of the statements, said otherwise for this run alone; they go with its answers. */
const { definition, layout } = defineProps<{ definition: ReportDefinition; layout: string }>()
const answers = defineModel<Record<string, string>>({ required: true })
const emit = defineEmits<{ close: [] }>()
const notes = computed(() => footnotesOf(definition, layoutNamed(definition, layout || undefined).name))
function say(name: string, text: string, written: string): void {
  const { [name]: _, ...others } = answers.value
  answers.value = text === written ? others : { ...others, [name]: text }
}
</script>

<template>
  <aside
    class="bar flex w-[320px] shrink-0 flex-col border-l border-default"
    :aria-label="t('runFootnotes.footnotesOfThisRun')"
    data-run-footnotes
    @keydown.esc="emit('close')"
  >
    <header class="flex items-center gap-2 px-4 pb-1 pt-3">
      <h2 class="font-display text-base font-semibold">{{ t('runFootnotes.footnotesOfThisRun') }}</h2>
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
    <div class="grow space-y-3 overflow-auto px-4 pb-4 text-sm">
      <p class="text-muted">{{ t('runFootnotes.theReportKeepsItsOwn') }}</p>
      <div v-for="(note, index) in notes" :key="note.name">
        <span class="flex items-center gap-2 text-muted"
          >{{ index + 1
          }}<UButton
            v-if="note.name in answers"
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-undo-2"
            class="ml-auto"
            @click="say(note.name, note.text, note.text)"
            >{{ t('runFootnotes.asInTheReport') }}</UButton
          ></span
        >
        <TextField
          rows="3"
          class="mt-0.5 w-full"
          :aria-label="t('runFootnotes.footnote', { what: index + 1 })"
          :value="answers[note.name] ?? note.text"
          @write="say(note.name, $event, note.text)"
        />
      </div>
    </div>
  </aside>
</template>
