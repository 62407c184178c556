<script setup lang="ts">
import { languageTags } from '../../core/api/people'

/** What stands around the few fields of a person who is not signed in yet. */
const { title, words } = defineProps<{ title: string; words?: string }>()
</script>

<template>
  <main class="desk grid min-h-dvh place-items-center p-6 text-default">
    <div class="w-full max-w-sm">
      <p class="mb-5 text-center font-display text-3xl font-semibold text-primary">{{ t('common.estante') }}</p>
      <section class="rounded-md border border-default bg-default p-6">
        <h1 class="font-display text-lg font-semibold">{{ title }}</h1>
        <p v-if="words" class="mt-1 text-sm text-muted">{{ words }}</p>
        <slot />
      </section>
      <p class="mt-3 flex justify-center gap-1">
        <UButton
          v-for="tag in languageTags"
          :key="tag"
          size="xs"
          variant="ghost"
          color="neutral"
          :lang="tag"
          :aria-pressed="tag === spoken"
          :class="tag === spoken ? 'font-semibold' : ''"
          @click="speak(tag)"
          >{{ languages[tag].name }}</UButton
        >
      </p>
    </div>
  </main>
</template>
