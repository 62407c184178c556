<script setup lang="ts">
/** Which branches or departments count: none chosen means all. */
const { kind, chosen } = defineProps<{ kind: 'branches' | 'departments'; chosen: readonly string[] }>()
const emit = defineEmits<{ choose: [codes: string[]] }>()
const report = useReport()
const known = computed(() => report.catalog?.ledger?.[kind]?.units ?? [])
/** Those that are chosen, though they are not in the source any more, can be let go too. */
const items = computed(() => [
  ...known.value.map(each => ({ value: each.code, label: each.name === each.code ? each.code : `${each.code} · ${each.name}` })),
  ...chosen
    .filter(code => !known.value.some(each => each.code === code))
    .map(code => ({ value: code, label: t('unitField.notInTheSource', { code }) })),
])
</script>

<template>
  <div v-if="items.length" class="flex items-center justify-between gap-2">
    <span class="text-muted">{{ kind === 'branches' ? t('unitField.branches') : t('unitField.departments') }}</span>
    <USelectMenu
      :model-value="[...chosen]"
      :items="items"
      value-key="value"
      multiple
      size="xs"
      :placeholder="t('common.all')"
      class="w-40"
      :search-input="items.length > 8"
      :aria-label="kind === 'branches' ? t('unitField.onlyTheseBranches') : t('unitField.onlyTheseDepartments')"
      @update:model-value="(codes: string[]) => emit('choose', codes)"
    />
  </div>
</template>
