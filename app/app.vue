<script setup lang="ts">
import { en, pt } from '@nuxt/ui/locale'

/** Words of the parts that come with the packages. */
const own = computed(() => ({ en, pt })[spoken.value])
</script>

<template>
  <UApp :locale="own">
    <!-- a menu that goes with what it changed must not leave the page behind it dead to the mouse -->
    <UTheme :props="{ dropdownMenu: { modal: false } }">
      <NuxtPage />
    </UTheme>
  </UApp>
</template>
