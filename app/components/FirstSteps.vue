<script setup lang="ts">
/** What to do where there is nothing yet: tables first, then a report on them. */
const emit = defineEmits<{ files: []; server: [] }>()
const sources = useSources()
</script>

<template>
  <section class="mx-auto mt-12 max-w-xl space-y-4" data-first-steps>
    <h1 class="font-display text-2xl font-semibold">{{ sources.list.length ? 'Now a report' : 'First, tables to report on' }}</h1>
    <template v-if="!sources.list.length">
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
      <p>
        {{ sources.list.map(each => each.name).join(', ') }} {{ sources.list.length === 1 ? 'is' : 'are' }} there. Choose the table that
        holds one row per line or document, and a first layout stands.
      </p>
      <UButton icon="i-lucide-plus" to="/new">New report</UButton>
    </template>
  </section>
</template>
