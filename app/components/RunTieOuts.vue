<script setup lang="ts">
import type { TieOutResult } from '../../core/definition/tieOuts'
import { parseDecimal } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'

/** What the tie-outs of a run came to: a mark that says it at once, with all figures behind it. */
const { results, language } = defineProps<{ results: readonly TieOutResult[]; language: string }>()
const failed = computed(() => results.filter(each => !each.holds).length)
const print = (text: string | undefined) =>
  text === undefined ? '–' : numberFormat('#,##0.00####;−#,##0.00####', language)(parseDecimal(text)!)
</script>

<template>
  <UPopover :content="{ align: 'end' }">
    <UButton
      size="sm"
      variant="soft"
      :color="failed ? 'error' : 'success'"
      :icon="failed ? 'i-lucide-x' : 'i-lucide-check'"
      data-run-ties
      >{{
        failed
          ? t('runTieOuts.ofTieOuts', { failed, count: results.length, what: t('runTieOuts.failsFail', failed) })
          : results.length === 1
            ? t('runTieOuts.tiesOut')
            : t('runTieOuts.tieOutsHold', { count: results.length })
      }}</UButton
    >
    <template #content>
      <div class="p-3">
        <table class="text-sm" data-tie-results>
          <thead>
            <tr class="text-left text-muted">
              <th class="pr-3 font-medium">{{ t('runTieOuts.mustBeEqual') }}</th>
              <th class="px-3 text-right font-medium">{{ t('runTieOuts.left') }}</th>
              <th class="px-3 text-right font-medium">{{ t('runTieOuts.right') }}</th>
              <th class="pl-3 text-right font-medium">{{ t('common.difference') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="each in results" :key="each.id">
              <td class="max-w-80 py-1 pr-3">
                <UIcon
                  :name="each.holds ? 'i-lucide-check' : 'i-lucide-x'"
                  class="mr-1 size-3.5 align-[-2px]"
                  :class="each.holds ? 'text-success' : 'text-error'"
                />{{ each.name }}
                <div v-if="each.sentence" class="text-xs" :class="each.holds ? 'text-muted' : 'text-error'">{{ tell(each.sentence) }}</div>
              </td>
              <td class="px-3 text-right tabular-nums">{{ print(each.left) }}</td>
              <td class="px-3 text-right tabular-nums">{{ print(each.right) }}</td>
              <td class="pl-3 text-right tabular-nums" :class="each.holds ? 'text-muted' : 'font-semibold text-error'">
                {{ print(each.difference) }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </UPopover>
</template>
