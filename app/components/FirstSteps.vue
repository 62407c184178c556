<script setup lang="ts">
/** What to do where there is nothing yet: tables first, then a report on them. */
const emit = defineEmits<{ files: []; server: [] }>()
const sources = useSources()
const me = useMe()
</script>

<template>
  <section class="mx-auto mt-12 max-w-xl space-y-4" data-first-steps>
    <template v-if="!me.author">
      <h1 class="font-display text-2xl font-semibold">Nothing to run yet</h1>
      <p>Reports stand here as soon as somebody has published one.</p>
    </template>
    <template v-else-if="!sources.list.length && !me.administrator">
      <h1 class="font-display text-2xl font-semibold">First, tables to report on</h1>
      <p>An administrator of Estante adds files, or connects the server where your books are; then you choose a table and begin.</p>
    </template>
    <template v-else-if="!sources.list.length">
      <h1 class="font-display text-2xl font-semibold">First, tables to report on</h1>
      <p>
        Drop a workbook or CSV files here, or connect the server where your books are. A server is only read; files and copies stay in the
        data folder of Estante.
      </p>
      <div class="flex gap-2">
        <UButton icon="i-lucide-file-plus" @click="emit('files')">Add files</UButton>
        <UButton variant="outline" color="neutral" icon="i-lucide-database" @click="emit('server')">Connect a server</UButton>
      </div>
      <p class="text-sm text-muted">To look around first, <code class="font-mono">npm run demo</code> starts with an invented company.</p>
    </template>
    <template v-else>
      <h1 class="font-display text-2xl font-semibold">Now a report</h1>
      <p>
        {{ sources.list.map(each => each.name).join(', ') }} {{ sources.list.length === 1 ? 'is' : 'are' }} there. Choose the table that
        holds one row per line or document, and a first layout stands.
      </p>
      <UButton icon="i-lucide-plus" to="/new">New report</UButton>
    </template>
  </section>
</template>
