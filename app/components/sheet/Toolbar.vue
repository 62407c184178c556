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
  found.value = page < 0 ? 'not on these pages' : `page ${page + 1}`
}
defineExpose({ select: () => field.value?.select() })
</script>

<template>
  <div class="bar flex h-10 shrink-0 items-center gap-1.5 border-b border-default px-3 text-sm" role="toolbar" aria-label="Sheet">
    <SheetCommandMenu :commands="menus.layouts" label="Layouts" icon="i-lucide-files" />
    <input
      v-model="layoutName"
      class="w-28 rounded-md border border-transparent bg-transparent px-1.5 py-0.5 font-medium hover:border-default focus:border-default"
      aria-label="Name of this layout"
      @change="nameLayout"
    />
    <span class="mx-1 h-5 border-l border-default" />
    <SheetCommandMenu v-model:open="addOpen" :commands="menus.insertions" label="Add" text="Add" icon="i-lucide-plus" outline />
    <SheetCommandMenu :commands="menus.drafts" label="Draft" text="Draft" icon="i-lucide-wand-sparkles" />
    <SheetCommandMenu :commands="menus.jumps" label="Show me" text="Show me" icon="i-lucide-crosshair" />
    <UButton size="sm" variant="ghost" color="neutral" icon="i-lucide-history" @click="$emit('compare')">Versions</UButton>
    <form v-if="finding" class="ml-auto flex items-center gap-1.5" @submit.prevent="findNext">
      <input
        ref="field"
        v-model="wanted"
        data-find
        class="w-44 rounded-md border border-default bg-default px-2 py-1"
        placeholder="Find on the sheet"
        aria-label="Find on the sheet"
        @keydown.esc.stop="finding = false"
      /><span class="w-28 text-xs text-muted" aria-live="polite">{{ found }}</span
      ><UButton size="xs" variant="ghost" color="neutral" icon="i-lucide-x" aria-label="Close find" @click="finding = false" />
    </form>
    <UButton
      v-else
      class="ml-auto"
      size="sm"
      variant="ghost"
      color="neutral"
      icon="i-lucide-search"
      aria-label="Find on the sheet"
      @click="finding = true"
    />
    <UTooltip :text="side ? 'One page under the other' : 'Pages side by side'"
      ><UButton
        size="sm"
        :variant="side ? 'soft' : 'ghost'"
        color="neutral"
        icon="i-lucide-columns-2"
        aria-label="Pages side by side"
        :aria-pressed="side"
        @click="side = !side"
    /></UTooltip>
    <UTooltip text="Fit the width" :kbds="['ctrl', '0']"
      ><UButton size="sm" variant="ghost" color="neutral" icon="i-lucide-maximize-2" aria-label="Fit the width" @click="$emit('fit')"
    /></UTooltip>
  </div>
</template>
