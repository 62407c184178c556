<script setup lang="ts">
import { parseDecimal } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'
import type { SourceDocument } from '../../core/api/answers'

const sources = useSources()

/** The document that a journal line came from: its record and its rows. */
const { number } = defineProps<{ number: string }>()
const emit = defineEmits<{ back: [] }>()
const found = shallowRef<SourceDocument>()
const problem = ref('')
watch(
  () => number,
  async wanted => {
    found.value = undefined
    problem.value = ''
    try {
      const answer = await api<SourceDocument>(sources.path(`document?number=${encodeURIComponent(wanted)}`))
      if (wanted === number) found.value = answer
    } catch (error) {
      problem.value = (error as Error).message
    }
  },
  { immediate: true },
)
const amount = numberFormat('#,##0.00####;−#,##0.00####', locale())
const whole = numberFormat('#,##0;−#,##0', locale())
/** Amounts with their marks; what is no number stays as it is. */
function print(text: string): string {
  const value = parseDecimal(text)
  return !value ? text : value.scale ? amount(value) : whole(value)
}
const back = useTemplateRef('back')
onMounted(() => (back.value as { $el?: HTMLElement } | null)?.$el?.focus())
</script>

<template>
  <div class="min-w-0 grow" data-document>
    <div class="flex items-center gap-2 pb-1">
      <UButton ref="back" size="xs" variant="outline" color="neutral" icon="i-lucide-arrow-left" @click="emit('back')">{{
        t('statementDocument.journalLines')
      }}</UButton><strong>{{ number }}</strong
      ><span v-if="found" class="text-muted">{{ found.table.toLowerCase() }}</span>
    </div>
    <p v-if="problem" class="text-muted" role="status">{{ tell(problem) }}</p>
    <p v-else-if="!found" class="text-muted">{{ t('statementDocument.readingTheDocument') }}</p>
    <template v-else>
      <dl class="flex flex-wrap gap-x-5 gap-y-0.5 text-[13px]">
        <div v-for="field in found.fields" :key="field.caption" class="flex gap-1.5">
          <dt class="text-muted">{{ field.caption }}</dt>
          <dd class="tabular-nums">{{ field.number ? print(field.value) : field.value }}</dd>
        </div>
      </dl>
      <div v-for="part in found.parts" :key="part.caption" class="pt-2">
        <p class="text-muted">
          {{ part.caption }}: {{ part.count
          }}{{ part.rows.length < part.count ? t('statementDocument.theFirstShown', { count: part.rows.length }) : '' }}
        </p>
        <div class="overflow-x-auto">
          <table class="w-full text-[13px]">
            <thead>
              <tr class="text-left text-muted">
                <th
                  v-for="column in part.columns"
                  :key="column.caption"
                  class="pr-4 font-normal"
                  :class="column.number ? 'text-right' : ''"
                >
                  {{ column.caption }}
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(row, index) in part.rows" :key="index">
                <td
                  v-for="(cell, at) in row"
                  :key="at"
                  class="max-w-56 truncate pr-4"
                  :class="part.columns[at]!.number ? 'text-right tabular-nums' : ''"
                >
                  {{ part.columns[at]!.number ? print(cell) : cell }}
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </div>
    </template>
  </div>
</template>
