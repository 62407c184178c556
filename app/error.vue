<script setup lang="ts">
import type { NuxtError } from '#app'

/** A page that is not there, or that could not be shown. */
const { error } = defineProps<{ error: NuxtError }>()
const words = computed(() => (error.statusCode === 404 ? t('error.thereIsNoPageAt') : t('error.thisPageCouldNotBe')))
</script>

<template>
  <main class="desk grid min-h-dvh place-items-center p-6 text-default">
    <div class="max-w-md text-center">
      <p class="mb-6 font-display text-3xl font-semibold text-primary">{{ t('common.estante') }}</p>
      <h1 class="font-display text-2xl">{{ words }}</h1>
      <UButton class="mt-6" to="/" icon="i-lucide-library" @click="clearError({ redirect: '/' })">{{ t('common.toTheLibrary') }}</UButton>
    </div>
  </main>
</template>
