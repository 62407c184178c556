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
  <SheetSection v-if="isNested(block)" :title="t('nestedSection.nestedReport')">
    <p class="flex items-center gap-2">
      <span class="truncate font-medium">{{ about?.name ?? own.name }}</span>
      <UButton
        class="ml-auto"
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-square-arrow-out-up-right"
        :to="`/reports/${about?.id ?? own.report}/page`"
        >{{ t('nestedSection.openIt') }}</UButton
      >
    </p>
    <Notice v-if="problem" :text="problem" kind="error" />
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('nestedSection.version') }}</span
      ><PickField
        class="w-40"
        :aria-label="t('nestedSection.versionOfTheNestedReport')"
        :value="own.version === undefined ? '' : String(own.version)"
        @pick="set(t('nestedSection.versionOfTheNestedReport'), { version: $event ? Number($event) : undefined } as never)"
      >
        <option value="">{{ t('nestedSection.asPublished') }}</option>
        <option v-if="about && own.version === undefined" :value="String(about.version)">
          {{ t('nestedSection.staysAt', { version: about.version }) }}
        </option>
        <option v-if="own.version !== undefined" :value="String(own.version)">
          {{ t('nestedSection.staysAt', { version: own.version }) }}
        </option>
      </PickField></label
    >
    <label v-if="(about?.layouts.length ?? 0) > 1" class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('nestedSection.layout') }}</span
      ><PickField
        class="w-40"
        :aria-label="t('nestedSection.layoutOfTheNestedReport')"
        :value="own.layout ?? ''"
        @pick="set(t('nestedSection.layoutOfTheNestedReport'), { layout: $event || undefined } as never)"
      >
        <option value="">{{ t('nestedSection.theUsualOne') }}</option>
        <option v-for="each in about!.layouts" :key="each" :value="each">{{ each }}</option>
      </PickField></label
    >
    <div v-if="about?.parameters.length" class="space-y-1.5">
      <span class="text-muted">{{ t('nestedSection.itsParametersAreAnsweredBy') }}</span>
      <SheetRuleField
        v-for="each in about.parameters"
        :key="each.name"
        :value="fed(each.name)"
        :scope="scope"
        :test="false"
        :label="each.label"
        :hint="t('nestedSection.itsDefault')"
        :data-feed="each.name"
        @set="report.edit(t('nestedSection.answerOfTheNestedReport'), now => setFeed(now, own.id, each.name, $event))"
      />
    </div>
    <p v-for="each in gone" :key="each.parameter" class="flex items-center gap-1 text-error">
      <span class="min-w-0 grow">{{ t('nestedSection.isNoParameterOfIt', { parameter: each.parameter }) }}</span><UButton
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :aria-label="t('nestedSection.takeOut', { parameter: each.parameter })"
        @click="report.edit(t('nestedSection.answerOfTheNestedReport'), now => setFeed(now, own.id, each.parameter, ''))"
      />
    </p>
    <div v-if="own.totals?.length" class="space-y-0.5">
      <span class="text-muted">{{ t('nestedSection.totalsThatItHandsOut') }}</span>
      <p v-for="each in own.totals" :key="each.name" class="font-mono text-xs">{{ own.id }}.{{ each.name }}</p>
      <p class="text-xs text-muted">
        {{ t('nestedSection.writeThemInTextsAnd', { id: own.id, name: own.totals[0]!.name }) }}
      </p>
    </div>
    <UButton
      v-if="changed"
      size="xs"
      variant="outline"
      color="neutral"
      icon="i-lucide-refresh-cw"
      @click="set(t('nestedSection.totalsOfTheNestedReport'), { totals: about!.totals.length ? about!.totals : undefined } as never)"
      >{{ own.totals?.length ? t('nestedSection.itsTotalsHaveChangedTake') : t('nestedSection.takeOverTheTotalsThat') }}</UButton
    >
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('nestedSection.fromTheLeftWideMm') }}</span
      ><span class="flex gap-1"
        ><NumberField
          v-for="side in ['left', 'width'] as const"
          :key="side"
          :least="0"
          class="w-[4.3rem]"
          :aria-label="side === 'left' ? t('nestedSection.fromTheLeftInMillimetres') : t('nestedSection.widthInMillimetres0For')"
          :value="mm(own[side])"
          @write="set(t('nestedSection.placeOfTheNestedReport'), { [side]: ($event * 72) / 25.4 })" /></span
    ></label>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted" :title="t('nestedSection.onlyWhereItsRecordsCannot')">{{ t('nestedSection.readAtMostTimes') }}</span
      ><NumberField
        :least="1"
        :most="100000"
        whole
        class="w-20"
        :aria-label="t('nestedSection.howManyDifferentAnswersIt')"
        :value="own.most"
        @write="set(t('nestedSection.limitOfTheNestedReport'), { most: $event })"
    /></label>
  </SheetSection>
</template>
