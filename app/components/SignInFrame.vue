<script setup lang="ts">
/** What stands around the few fields of a person who is not signed in yet. */
const { title, words } = defineProps<{ title: string; words?: string }>()
</script>

<template>
  <main class="desk grid min-h-dvh place-items-center p-6 text-default">
    <div class="w-full max-w-sm">
      <p class="mb-5 text-center font-display text-3xl font-semibold text-primary">Estante</p>
      <section class="rounded-md border border-default bg-default p-6">
        <h1 class="font-display text-lg font-semibold">{{ title }}</h1>
        <p v-if="words" class="mt-1 text-sm text-muted">{{ words }}</p>
        <slot />
      </section>
    </div>
  </main>
</template>
