<script setup lang="ts">
/** The source at hand, where there are several to choose from. */
const emit = defineEmits<{ pick: [id: string] }>()
const sources = useSources()
</script>

<template>
  <PickField
    v-if="sources.list.length > 1"
    class="w-44"
    size="sm"
    :aria-label="t('common.source')"
    :value="sources.current?.id ?? ''"
    @pick="emit('pick', $event)"
  >
    <option v-for="source in sources.list" :key="source.id" :value="source.id">{{ source.name }}</option>
  </PickField>
</template>
