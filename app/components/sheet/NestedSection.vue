<script setup lang="ts">
import equal from 'fast-deep-equal'
import type { NestedAbout } from '../../../core/api/answers'
import { isNested, type NestedBlock } from '../../../core/definition/blocks/nested'
import { changeNested, setFeed } from '../../../core/definition/edits/nested'

/** The selected nested report: which one, what answers its parameters, and the totals that it hands out. */
const { report, definition, block } = useSheetSelection()
const own = computed(() => block.value as NestedBlock)
const about = shallowRef<NestedAbout>()
const problem = ref('')
watch(
  () => [own.value?.report, own.value?.version] as const,
  async ([id, version]) => {
    if (!isNested(block.value)) return
    problem.value = ''
    about.value = undefined
    const asked = new URLSearchParams({ within: report.id, ...(version === undefined ? {} : { version: String(version) }) })
    try {
      const found = await api<NestedAbout>(`/api/nested/${encodeURIComponent(id)}?${asked}`)
      if (own.value?.report === id) about.value = found
    } catch (error) {
      problem.value = (error as Error).message
    }
  },
  { immediate: true },
)
const scope = computed(() => scopeOfBlock(definition.value, report.tree!.levels, own.value.id))
const set = (label: string, change: Partial<NestedBlock>) =>
  report.edit(label, now =>
    changeNested(
      now,
      own.value.id,
      each =>
        Object.fromEntries(Object.entries({ ...each, ...change }).filter(([, value]) => value !== undefined)) as unknown as NestedBlock,
    ),
  )
const fed = (parameter: string) => own.value.feeds.find(each => each.parameter === parameter)?.formula ?? ''
/** parameters that are answered here, and are not in the report any more */
const gone = computed(() =>
  about.value ? own.value.feeds.filter(each => !about.value!.parameters.some(({ name }) => name === each.parameter)) : [],
)
const changed = computed(() => about.value && !equal(about.value.totals, own.value.totals ?? []))
const mm = (points: number) => Math.round((points / 72) * 254) / 10
</script>

<template>
  <SheetSection v-if="isNested(block)" title="Nested report">
    <p class="flex items-center gap-2">
      <span class="truncate font-medium">{{ about?.name ?? own.name }}</span>
      <UButton
        class="ml-auto"
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-square-arrow-out-up-right"
        :to="`/reports/${about?.id ?? own.report}/page`"
        >Open it</UButton
      >
    </p>
    <Notice v-if="problem" :text="problem" kind="error" />
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">Version</span
      ><PickField
        class="w-40"
        aria-label="Version of the nested report"
        :value="own.version === undefined ? '' : String(own.version)"
        @pick="set('Version of the nested report', { version: $event ? Number($event) : undefined } as never)"
      >
        <option value="">as published</option>
        <option v-if="about && own.version === undefined" :value="String(about.version)">stays at {{ about.version }}</option>
        <option v-if="own.version !== undefined" :value="String(own.version)">stays at {{ own.version }}</option>
      </PickField></label
    >
    <label v-if="(about?.layouts.length ?? 0) > 1" class="flex items-center justify-between gap-2"
      ><span class="text-muted">Layout</span
      ><PickField
        class="w-40"
        aria-label="Layout of the nested report"
        :value="own.layout ?? ''"
        @pick="set('Layout of the nested report', { layout: $event || undefined } as never)"
      >
        <option value="">the usual one</option>
        <option v-for="each in about!.layouts" :key="each" :value="each">{{ each }}</option>
      </PickField></label
    >
    <div v-if="about?.parameters.length" class="space-y-1.5">
      <span class="text-muted">Its parameters are answered by</span>
      <SheetRuleField
        v-for="each in about.parameters"
        :key="each.name"
        :value="fed(each.name)"
        :scope="scope"
        :test="false"
        :label="each.label"
        hint="its default"
        :data-feed="each.name"
        @set="report.edit('Answer of the nested report', now => setFeed(now, own.id, each.name, $event))"
      />
    </div>
    <p v-for="each in gone" :key="each.parameter" class="flex items-center gap-1 text-error">
      <span class="min-w-0 grow">“{{ each.parameter }}” is no parameter of it any more.</span
      ><UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :aria-label="`Take ${each.parameter} out`"
        @click="report.edit('Answer of the nested report', now => setFeed(now, own.id, each.parameter, ''))"
      />
    </p>
    <div v-if="own.totals?.length" class="space-y-0.5">
      <span class="text-muted">Totals that it hands out</span>
      <p v-for="each in own.totals" :key="each.name" class="font-mono text-xs">{{ own.id }}.{{ each.name }}</p>
      <p class="text-xs text-muted">
        Write them in texts and formulas of this level, or add them up: sum({{ own.id }}.{{ own.totals[0]!.name }})
      </p>
    </div>
    <UButton
      v-if="changed"
      size="xs"
      variant="outline"
      color="neutral"
      icon="i-lucide-refresh-cw"
      @click="set('Totals of the nested report', { totals: about!.totals.length ? about!.totals : undefined } as never)"
      >{{ own.totals?.length ? 'Its totals have changed: take them over' : 'Take over the totals that it hands out' }}</UButton
    >
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">From the left, wide, mm</span
      ><span class="flex gap-1"
        ><NumberField
          v-for="side in ['left', 'width'] as const"
          :key="side"
          :least="0"
          class="w-[4.3rem]"
          :aria-label="side === 'left' ? 'From the left in millimetres' : 'Width in millimetres, 0 for all that is left'"
          :value="mm(own[side])"
          @write="set('Place of the nested report', { [side]: ($event * 72) / 25.4 })" /></span
    ></label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted" title="Only where its records cannot be read for all answers at once.">Read at most … times</span
      ><NumberField
        :least="1"
        :most="100000"
        whole
        class="w-20"
        aria-label="How many different answers it is read for at most"
        :value="own.most"
        @write="set('Limit of the nested report', { most: $event })"
    /></label>
  </SheetSection>
</template>
