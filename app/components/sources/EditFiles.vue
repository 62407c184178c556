<script setup lang="ts">
import type { SourceConnection } from '../../../core/api/intake'

/** The name of a source of files, and the folder whose files are taken in again when they change. */
const { id, connection } = defineProps<{ id: string; connection: SourceConnection & { kind: 'files' } }>()
const emit = defineEmits<{ close: []; changed: [] }>()
const name = ref(connection.name)
const watch = ref(connection.watch)
const problem = ref('')
const busy = ref(false)

async function change(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await api(`/api/sources/${encodeURIComponent(id)}/connection`, { method: 'PUT', body: { name: name.value, watch: watch.value } })
    emit('changed')
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form
    class="flex min-h-0 grow flex-col overflow-auto"
    :aria-label="t('editFiles.nameAndFolderOf', { name: connection.name })"
    data-edit-files
    @submit.prevent="change"
  >
    <header class="flex items-end gap-3 border-b border-default px-11 py-3">
      <UFormField :label="t('common.nameOfTheSource')" size="sm" class="w-72"
        ><UInput v-model="name" size="sm" class="w-full" autofocus
      /></UFormField>
      <span class="grow" />
      <UButton size="sm" variant="ghost" color="neutral" @click="emit('close')">{{ t('common.close') }}</UButton>
      <UButton type="submit" size="sm" icon="i-lucide-check" :disabled="!name.trim()" :loading="busy">{{ t('common.change') }}</UButton>
    </header>
    <Notice v-if="problem" :text="problem" kind="error" />
    <div class="max-w-xl space-y-4 px-11 py-5">
      <UFormField :label="t('editFiles.folderThatIsWatched')" size="sm" :help="t('editFiles.aFolderOfTheMachine')">
        <UInput v-model="watch" size="sm" class="w-full font-mono" :placeholder="t('common.none')" />
      </UFormField>
      <section v-if="Object.keys(connection.tables).length">
        <h2 class="mb-1 text-sm font-semibold">{{ t('editFiles.whereItsTablesAreFrom') }}</h2>
        <ul class="space-y-0.5 text-sm">
          <li v-for="(origin, table) in connection.tables" :key="table">
            {{ table }} <span class="text-muted">· {{ origin.file }}{{ origin.sheet ? `, ${origin.sheet}` : '' }}</span>
          </li>
        </ul>
      </section>
    </div>
  </form>
</template>
