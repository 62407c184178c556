<script setup lang="ts">
import { draggable } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { tickedFields } from '../../core/model/levels'
import type { FieldInfo, LevelInfo } from '../../core/formula/typed'

/** Fields of all levels, to be dragged onto the sheet; a double click or Enter puts one at the selection. */
const emit = defineEmits<{ put: [level: number, path: string] }>()
const report = useReport()
const search = ref('')
const all = ref(false)
const levels = computed(() => report.tree?.levels ?? [])
const count = (level: LevelInfo) => report.rows?.records.levels[level.index]?.count
function fields(level: LevelInfo): FieldInfo[] {
  const wanted = search.value.trim().toLowerCase()
  const list =
    all.value || wanted
      ? [...level.fields.values()].filter(field => field.role !== 'key' || wanted)
      : [
          ...tickedFields(level.definition).flatMap(path => level.fields.get(path) ?? []),
          // what nested reports hand out
          ...[...level.fields.values()].filter(field => field.nested),
        ]
  return wanted ? list.filter(field => `${field.path} ${fieldTitle(field)}`.toLowerCase().includes(wanted)) : list
}
const vDrag = {
  mounted: (element: HTMLElement, { value }: { value: { level: number; path: string; caption: string } }) => {
    draggable({ element, getInitialData: () => ({ field: value }) })
  },
}
</script>

<template>
  <aside class="bar flex w-[200px] shrink-0 flex-col border-r border-default" :aria-label="t('fieldList.fields')">
    <div class="p-3 pb-2">
      <UInput
        v-model="search"
        size="sm"
        :placeholder="t('common.findAField')"
        icon="i-lucide-search"
        class="w-full"
        :aria-label="t('common.findAField')"
      />
    </div>
    <div class="grow overflow-auto px-3 pb-3">
      <section v-for="level in levels" :key="level.name" class="mb-3" :style="{ '--level': levelColour(level.index) }">
        <h3 class="flex items-center gap-2 py-1 font-semibold">
          <span class="level-mark" />{{ level.caption }}<span class="ml-auto text-xs font-normal text-muted">{{ count(level) }}</span>
        </h3>
        <div
          v-for="field in fields(level)"
          :key="field.path"
          v-drag="{ level: level.index, path: field.path, caption: fieldTitle(field) }"
          tabindex="0"
          role="button"
          class="flex cursor-grab items-center gap-2 rounded px-1.5 py-[3px] text-sm hover:bg-elevated"
          :data-field="`${level.name}.${field.path}`"
          :title="`${level.name}.${field.path}`"
          @dblclick="emit('put', level.index, field.path)"
          @keydown.enter="emit('put', level.index, field.path)"
        >
          <span class="truncate">{{ fieldTitle(field) }}</span>
          <span class="ml-auto text-xs text-dimmed">{{
            { number: '1,2', text: t('common.text'), date: t('fieldList.date'), moment: t('fieldList.time'), boolean: t('fieldList.yN') }[
              field.type
            ]
          }}</span>
        </div>
      </section>
      <label class="flex items-center gap-2 px-1 text-xs text-muted"
        ><input v-model="all" type="checkbox" class="accent-petrol-700" /> {{ t('fieldList.fieldsNotTickedInData') }}</label
      >
    </div>
  </aside>
</template>
