<script setup lang="ts">
/** Who may do one thing with a report: a choice, and teams where it is `teams`. */
defineProps<{
  title: string
  choice: string
  choices: { value: string; label: string }[]
  teams: string[]
  options: { value: string; label: string }[]
  teamsTitle: string
  /** what it means that no team is chosen yet */
  none: string
}>()
const emit = defineEmits<{ choose: [choice: string]; teams: [teams: string[]] }>()
</script>

<template>
  <div>
    <h3 class="mb-1 font-semibold">{{ title }}</h3>
    <div class="flex gap-2">
      <USelect
        :model-value="choice"
        :items="choices"
        size="sm"
        class="w-44 shrink-0"
        :aria-label="title"
        @update:model-value="(value: string) => emit('choose', value)"
      />
      <USelectMenu
        v-if="choice === 'teams'"
        :model-value="teams"
        :items="options"
        value-key="value"
        multiple
        size="sm"
        class="min-w-0 grow"
        :placeholder="none"
        :aria-label="teamsTitle"
        @update:model-value="(list: string[]) => emit('teams', list)"
      />
    </div>
    <slot />
  </div>
</template>
