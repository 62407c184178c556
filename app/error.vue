<script setup lang="ts">
import type { NuxtError } from '#app'

/** A page that is not there, or that could not be shown. */
const { error } = defineProps<{ error: NuxtError }>()
const words = computed(() =>
  error.statusCode === 404 ? 'There is no page at this address.' : 'This page could not be shown; load it again, or go to the library.',
)
</script>

<template>
  <main class="desk grid min-h-dvh place-items-center p-6 text-default">
    <div class="max-w-md text-center">
      <p class="mb-6 font-display text-3xl font-semibold text-primary">Estante</p>
      <h1 class="font-display text-2xl">{{ words }}</h1>
      <UButton class="mt-6" to="/" icon="i-lucide-library" @click="clearError({ redirect: '/' })">To the library</UButton>
    </div>
  </main>
</template>
