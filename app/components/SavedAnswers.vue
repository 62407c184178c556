<script setup lang="ts">
/** Answers of a report that are kept under a name, such as “Close of October”. */
const { report } = defineProps<{ report: string }>()
const answers = defineModel<Record<string, string>>({ required: true })
const list = ref<{ name: string; answers: Record<string, string> }[]>([])
const naming = ref(false)
const name = ref('')
const problem = ref('')
const load = async () => (list.value = await api(`/api/reports/${report}/answers`))
onMounted(() => void load().catch(() => {}))
async function keep(as: string, kept?: Record<string, string>): Promise<void> {
  try {
    list.value = await api(`/api/reports/${report}/answers`, { method: 'POST', body: { name: as, ...(kept ? { answers: kept } : {}) } })
    naming.value = false
    name.value = ''
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const items = computed(() => [
  ...(list.value.length
    ? [
        list.value.map(each => ({
          label: each.name,
          icon: 'i-lucide-bookmark',
          onSelect: () => {
            answers.value = { ...each.answers }
          },
        })),
      ]
    : []),
  [
    {
      label: t('savedAnswers.keepTheseAnswers'),
      icon: 'i-lucide-bookmark-plus',
      onSelect: () => {
        naming.value = true
      },
    },
  ],
  ...(list.value.length
    ? [
        [
          {
            label: t('savedAnswers.letGo'),
            icon: 'i-lucide-trash-2',
            children: list.value.map(each => ({ label: each.name, onSelect: () => void keep(each.name) })),
          },
        ],
      ]
    : []),
])
</script>

<template>
  <form v-if="naming" class="flex items-center gap-1.5" @submit.prevent="name.trim() && keep(name, answers)">
    <UInput
      v-model="name"
      autofocus
      size="sm"
      class="w-44"
      :placeholder="t('savedAnswers.closeOfOctober')"
      :aria-label="t('savedAnswers.nameOfTheAnswers')"
      @keydown.esc="naming = false"
    />
    <UButton type="submit" size="sm" :disabled="!name.trim()">{{ t('common.keep') }}</UButton>
    <p v-if="problem" class="text-xs text-error" role="alert">{{ tell(problem) }}</p>
  </form>
  <UDropdownMenu v-else :items="items"
    ><UButton
      size="sm"
      variant="ghost"
      color="neutral"
      icon="i-lucide-bookmark"
      trailing-icon="i-lucide-chevron-down"
      class="shrink-0 whitespace-nowrap"
      >{{ t('savedAnswers.savedAnswers') }}</UButton
    ></UDropdownMenu
  >
</template>
