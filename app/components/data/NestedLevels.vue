<script setup lang="ts">
import { nestedPlaces } from '../../../core/model/nested'

/** Reports nested in the layouts, under the level whose records they stand in; without a level, those that stand once for all. */
const { level = undefined, indent } = defineProps<{ level?: string | undefined; indent: number }>()
const report = useReport()
const data = useData()
const list = computed(() => nestedPlaces(report.definition!).filter(each => each.level === level))
</script>

<template>
  <section
    v-for="{ block, layout } in list"
    :key="block.id"
    class="rounded-md border border-dashed border-default bg-default py-1.5 pl-2 pr-1.5"
    :style="{ marginLeft: `${indent * 16}px`, borderLeft: '4px dotted var(--ui-color-secondary-500, #a7713f)' }"
    :aria-label="t('nestedLevels.nestedReport', { name: block.name })"
    :data-nested="block.id"
  >
    <button class="flex w-full items-center gap-1.5 text-left" @click="data.panel = { kind: 'nested', block: block.id }">
      <UIcon name="i-lucide-panels-top-left" class="size-3.5 shrink-0 text-muted" />
      <span class="truncate font-semibold">{{ block.name }}</span>
      <span class="ml-auto shrink-0 text-xs text-muted" :title="t('nestedLevels.nestedInTheLayout', { layout })">{{
        t('nestedLevels.nestedReport2')
      }}</span>
    </button>
  </section>
</template>
