<script setup lang="ts">
import { setFilter } from '../../core/definition/edits'
import { parameterTypes } from '../../core/definition/types'
import { checkFormula } from '../../core/formula/check'

/** The clauses of the root level as formula texts: all must hold. */
const report = useReport()
const root = computed(() => report.tree?.levels[0])
const editing = ref(-1)
const text = ref('')
const fault = ref('')

function start(index: number): void {
  editing.value = index
  text.value = root.value?.definition.filters[index] ?? ''
  fault.value = ''
}

function commit(close: () => void): void {
  if (text.value.trim()) {
    try {
      const parameters = Object.fromEntries(report.definition!.parameters.map(parameter => [parameter.name, parameterTypes[parameter.kind]]))
      if (checkFormula(text.value, { levels: report.tree!.levels, level: 0, parameters, filter: true }).type !== 'boolean') throw new Error('This is not a test; write one such as total > 0.')
    } catch (error) {
      fault.value = (error as Error).message
      return
    }
  }
  report.edit('Filter', definition => setFilter(definition, root.value!.name, editing.value, text.value))
  close()
}
</script>

<template>
  <div class="flex flex-wrap items-center gap-1.5">
    <span class="text-sm font-medium text-muted">Only where</span>
    <template v-for="(clause, index) in [...(root?.definition.filters ?? []), '']" :key="index">
      <span v-if="index && clause" class="text-sm text-muted">and</span>
      <UPopover @update:open="opened => opened && start(index)">
        <button v-if="clause" class="rounded-md border border-default bg-default px-2 py-0.5 font-mono text-xs hover:border-petrol-500">{{ clause }}</button>
        <UButton v-else size="xs" variant="ghost" icon="i-lucide-plus" aria-label="Add a filter">{{ index ? 'and' : 'Add a filter' }}</UButton>
        <template #content="{ close }">
          <form class="w-96 p-3" @submit.prevent="commit(close)">
            <UInput v-model="text" autofocus class="w-full font-mono" placeholder="total > 1000" aria-label="Filter formula" />
            <p v-if="fault" class="mt-1.5 text-sm text-error" role="alert">{{ fault }}</p>
            <p v-else class="mt-1.5 text-xs text-muted">A clause whose parameter is left empty does not count.</p>
            <div class="mt-2 flex gap-2">
              <UButton type="submit" size="xs">Use</UButton>
              <UButton v-if="clause" type="button" size="xs" variant="ghost" color="error" @click="text = ''; commit(close)">Remove</UButton>
            </div>
          </form>
        </template>
      </UPopover>
    </template>
  </div>
</template>
