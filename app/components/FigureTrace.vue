<script setup lang="ts">
import type { BehindFigure } from '../../core/compose/behind'

/** The records behind a figure, each with what it adds, and their sum. */
const { lists, words, problem } = defineProps<{
  /** undefined while they are read */
  lists: BehindFigure[] | undefined
  /** which rows they are of */
  words: string
  problem?: string
}>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <section
    class="bar max-h-64 shrink-0 overflow-auto border-t border-default px-4 py-2 text-sm"
    :aria-label="t('common.trace')"
    data-trace
    @keydown.esc.stop="emit('close')"
  >
    <div class="flex items-center gap-3">
      <h3 class="font-semibold">{{ t('figureTrace.behindThisFigure') }}</h3>
      <span class="truncate text-muted">{{ words }}</span>
      <span class="ml-auto flex shrink-0 items-center gap-3"
        ><slot /><UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-x"
          :aria-label="t('figureTrace.closeTheTrace')"
          @click="emit('close')"
      /></span>
    </div>
    <p v-if="problem" class="text-error" role="alert">{{ tell(problem) }}</p>
    <p v-else-if="!lists" class="flex items-center gap-2 text-muted">
      <UIcon name="i-lucide-loader-circle" class="size-4 animate-spin" />{{ t('figureTrace.readingItsRecords') }}
    </p>
    <p v-else-if="!lists.length" class="text-muted">{{ t('figureTrace.thisCellShowsValuesOf') }}</p>
    <div v-for="(list, index) in lists ?? []" :key="index" :style="{ '--level': levelColour(list.level) }">
      <p class="flex items-center gap-2 py-1">
        <span class="level-mark" />{{ t('figureTrace.of', { total: list.total, counted: counted(list.count, list.caption) })
        }}<template v-if="list.rows.length < list.count">{{
          t('figureTrace.theFirstShown', { count: grouped(list.rows.length) })
        }}</template
        ><strong v-if="list.sum !== undefined" class="ml-2" data-trace-sum>{{
          t('figureTrace.upTo', { what: t('figureTrace.addsAdd', list.count), sum: list.sum })
        }}</strong>
      </p>
      <table class="text-[13px]">
        <thead>
          <tr class="text-left text-muted">
            <th v-for="(field, at) in list.fields" :key="at" class="pr-5 font-normal" :class="field.number ? 'text-right' : ''">
              {{ field.title }}
            </th>
            <th class="pr-5 text-right font-normal">{{ t('figureTrace.adds') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, own) in list.rows" :key="own">
            <td
              v-for="(field, at) in list.fields"
              :key="at"
              class="max-w-64 truncate pr-5"
              :class="field.number ? 'text-right tabular-nums' : ''"
            >
              {{ row.cells[at] }}
            </td>
            <td class="pr-5 text-right tabular-nums">{{ row.adds || '✓' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
