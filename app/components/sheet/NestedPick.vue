<script setup lang="ts">
import type { NestedAbout } from '../../../core/api/answers'
import { newNested } from '../../../core/templates/nested'
import type { NestedBlock } from '../../../core/definition/blocks/nested'

/** Which report of the library is nested where the selection stands. */
const emit = defineEmits<{ add: [block: NestedBlock]; close: [] }>()
const { level, taken } = defineProps<{ level: number; taken: () => string[] }>()
const report = useReport()
const library = useLibrary()
const problem = ref('')
const busy = ref(false)
onMounted(() => void library.load())
const groups = computed(() =>
  (library.shelves.value ?? []).flatMap(shelf => {
    const items = shelf.reports
      .filter(each => each.id !== report.id)
      .map(each => ({
        label: each.name,
        suffix: each.published === null ? t('nestedPick.notPublishedYet') : '',
        disabled: busy.value || each.published === null,
        onSelect: () => void choose(each.id),
      }))
    return items.length ? [{ id: shelf.id, label: shelf.name, items }] : []
  }),
)
async function choose(id: string): Promise<void> {
  busy.value = true
  try {
    const about = await api<NestedAbout>(`/api/nested/${encodeURIComponent(id)}?within=${encodeURIComponent(report.id)}`)
    const { levels } = report.tree!
    emit('add', newNested(about, { levels, level, catalog: report.catalog!, parameters: report.definition!.parameters }, taken()))
    emit('close')
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <UModal
    open
    :title="t('nestedPick.nestAReport')"
    :description="t('nestedPick.itIsPrintedWhereIt')"
    @update:open="$event || emit('close')"
  >
    <template #body>
      <Notice v-if="problem" :text="problem" kind="error" />
      <UCommandPalette
        :groups="groups"
        class="h-80"
        :placeholder="t('nestedPick.nameOfTheReport')"
        :fuse="{ resultLimit: 50 }"
        data-nest-pick
      />
    </template>
  </UModal>
</template>
