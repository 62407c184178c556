<script setup lang="ts">
import type { Command } from '../../stores/commands'

/** What stands above the sheet: its layouts, what can be added, and looking for a text. */
const { seek, rename } = defineProps<{
  /** worked out when a menu opens */
  menus: Record<'layouts' | 'insertions' | 'drafts' | 'jumps', () => readonly Command[]>
  /** the page where a text is found from the one in view on, or −1 */
  seek: (text: string) => Promise<number>
  rename: (name: string) => void
}>()
defineEmits<{ compare: []; fit: [] }>()
const finding = defineModel<boolean>('finding', { required: true })
const side = defineModel<boolean>('side', { required: true })
const addOpen = defineModel<boolean>('addOpen', { required: true })
const report = useReport()

// typed into a copy: pages that come meanwhile draw the bar anew, and what is typed stays
const layoutName = ref('')
watch(
  () => report.layout?.name,
  name => (layoutName.value = name ?? ''),
  { immediate: true },
)
function nameLayout(): void {
  rename(layoutName.value)
  layoutName.value = report.layout!.name
}

const field = useTemplateRef('field')
const wanted = ref('')
const found = ref('')
watch(finding, open => open && void nextTick(() => field.value?.select()))
async function findNext(): Promise<void> {
  if (!wanted.value.trim()) return
  const page = await seek(wanted.value.trim())
  found.value = page < 0 ? t('toolbar.notOnThesePages') : t('toolbar.page', { page: page + 1 })
}
defineExpose({ select: () => field.value?.select() })
</script>

<template>
  <div
    class="bar flex h-10 shrink-0 items-center gap-1.5 border-b border-default px-3 text-sm"
    role="toolbar"
    :aria-label="t('toolbar.sheet')"
  >
    <SheetCommandMenu :commands="menus.layouts" :label="t('toolbar.layouts')" icon="i-lucide-files" />
    <input
      v-model="layoutName"
      class="w-28 rounded-md border border-transparent bg-transparent px-1.5 py-0.5 font-medium hover:border-default focus:border-default"
      :aria-label="t('toolbar.nameOfThisLayout')"
      @change="nameLayout"
    />
    <span class="mx-1 h-5 border-l border-default" />
    <SheetCommandMenu
      v-model:open="addOpen"
      :commands="menus.insertions"
      :label="t('common.add')"
      :text="t('common.add')"
      icon="i-lucide-plus"
      outline
    />
    <SheetCommandMenu :commands="menus.drafts" :label="t('toolbar.draft')" :text="t('toolbar.draft')" icon="i-lucide-wand-sparkles" />
    <SheetCommandMenu :commands="menus.jumps" :label="t('toolbar.showMe')" :text="t('toolbar.showMe')" icon="i-lucide-crosshair" />
    <UButton size="sm" variant="ghost" color="neutral" icon="i-lucide-history" @click="$emit('compare')">{{
      t('toolbar.versions')
    }}</UButton>
    <form v-if="finding" class="ml-auto flex items-center gap-1.5" @submit.prevent="findNext">
      <input
        ref="field"
        v-model="wanted"
        data-find
        class="w-44 rounded-md border border-default bg-default px-2 py-1"
        :placeholder="t('toolbar.findOnTheSheet')"
        :aria-label="t('toolbar.findOnTheSheet')"
        @keydown.esc.stop="finding = false"
      /><span class="w-28 text-xs text-muted" aria-live="polite">{{ found }}</span
      ><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-x" :aria-label="t('toolbar.closeFind')" @click="finding = false" />
    </form>
    <UButton
      v-else
      class="ml-auto"
      size="sm"
      variant="ghost"
      color="neutral"
      icon="i-lucide-search"
      :aria-label="t('toolbar.findOnTheSheet')"
      @click="finding = true"
    />
    <UTooltip :text="side ? t('toolbar.onePageUnderTheOther') : t('toolbar.pagesSideBySide')"
      ><UButton
        size="sm"
        :variant="side ? 'soft' : 'ghost'"
        color="neutral"
        icon="i-lucide-columns-2"
        :aria-label="t('toolbar.pagesSideBySide')"
        :aria-pressed="side"
        @click="side = !side"
    /></UTooltip>
    <UTooltip :text="t('toolbar.fitTheWidth')" :kbds="['ctrl', '0']"
      ><UButton
        size="sm"
        variant="ghost"
        color="neutral"
        icon="i-lucide-maximize-2"
        :aria-label="t('toolbar.fitTheWidth')"
        @click="$emit('fit')"
    /></UTooltip>
  </div>
</template>
