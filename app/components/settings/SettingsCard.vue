<script setup lang="ts">
/** A part of the settings: its name, what it says of itself, its commands, and what is wrong. */
defineProps<{ name: string; problem?: string; changed?: boolean }>()
defineEmits<{ back: []; keep: [] }>()
</script>

<template>
  <section :aria-label="name">
    <div class="mb-3 flex items-center gap-3">
      <h2 class="font-display text-lg font-semibold">{{ name }}</h2>
      <p class="text-muted"><slot name="about" /></p>
      <span class="grow" />
      <slot name="commands">
        <UButton size="sm" variant="ghost" color="neutral" :disabled="!changed" @click="$emit('back')">{{ t('common.takeBack') }}</UButton>
        <UButton size="sm" :disabled="!changed" @click="$emit('keep')">{{ t('common.keep') }}</UButton>
      </slot>
    </div>
    <p v-if="problem" class="mb-2 text-error" role="alert">{{ tell(problem) }}</p>
    <div class="rounded-md border border-default bg-default p-4"><slot /></div>
  </section>
</template>
