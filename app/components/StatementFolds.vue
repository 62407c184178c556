<script setup lang="ts">
import type { Fold } from '../../core/compose/statement/fold'

/** Signs at the left of a statement's rows that fold accounts away, and open them again. */
const { folds, zoom } = defineProps<{ folds: Fold[]; zoom: number }>()
const emit = defineEmits<{ toggle: [id: string] }>()
</script>

<template>
  <button
    v-for="fold in folds"
    :key="`${fold.id} ${fold.box.y}`"
    type="button"
    class="absolute z-10 grid size-4 place-items-center rounded text-petrol-800 hover:bg-petrol-100"
    data-fold
    :aria-expanded="!fold.closed"
    :title="fold.closed ? t('statementFolds.showTheAccounts') : t('statementFolds.foldTheAccountsAway')"
    :aria-label="fold.closed ? t('statementFolds.showTheAccounts') : t('statementFolds.foldTheAccountsAway')"
    :style="{ left: `${fold.box.x * zoom - 16}px`, top: `${(fold.box.y + fold.box.height / 2) * zoom - 8}px` }"
    @click.stop="emit('toggle', fold.id)"
    @pointerdown.stop
  >
    <UIcon :name="fold.closed ? 'i-lucide-chevron-right' : 'i-lucide-chevron-down'" class="size-3.5" />
  </button>
</template>
