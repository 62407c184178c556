<script setup lang="ts">
import { themeNamed } from '../../../core/compose/style'
import type { Align, TextStyle } from '../../../core/definition/style'

/** Letters, alignment and what is done with text that is too wide. */
const {
  style,
  full = true,
  marks = false,
} = defineProps<{
  style: TextStyle
  /** a text that can carry marks */ marks?: boolean
  /** with alignment and overflow */ full?: boolean
}>()
const emit = defineEmits<{ set: [change: Partial<TextStyle>] }>()
const report = useReport()
const theme = computed(() => themeNamed(report.layout?.theme, report.definition?.themes))
const value = (event: Event) => (event.target as HTMLInputElement).value
const toggle = 'grid size-7 place-items-center rounded-md border border-default'
const on = 'bg-petrol-100 dark:bg-petrol-900'
const aligns: { align: Align; icon: string }[] = [
  { align: 'left', icon: 'i-lucide-align-left' },
  { align: 'centre', icon: 'i-lucide-align-center' },
  { align: 'right', icon: 'i-lucide-align-right' },
]
</script>

<template>
  <div class="space-y-1.5">
    <div class="flex items-center gap-1">
      <button
        :class="[toggle, 'font-bold', style.bold ? on : '']"
        :aria-label="t('styleFields.bold')"
        :aria-pressed="!!style.bold"
        @click="emit('set', { bold: style.bold ? undefined : true })"
      >
        {{ t('styleFields.b') }}
      </button>
      <button
        :class="[toggle, 'italic', style.italic ? on : '']"
        :aria-label="t('styleFields.italic')"
        :aria-pressed="!!style.italic"
        @click="emit('set', { italic: style.italic ? undefined : true })"
      >
        {{ t('styleFields.i') }}
      </button>
      <NumberField
        :least="4"
        :most="72"
        :step="0.5"
        class="h-7 w-14"
        :aria-label="t('styleFields.sizeInPoints')"
        :value="style.size ?? theme.body.size"
        @write="emit('set', { size: $event })"
      />
      <label class="relative" :class="toggle" :title="t('styleFields.colourOfTheLetters')"
        ><span class="size-3.5 rounded-full ring-1 ring-accented" :style="{ background: style.colour ?? theme.body.colour }" /><input
          type="color"
          class="absolute inset-0 cursor-pointer opacity-0"
          :aria-label="t('styleFields.colourOfTheLetters')"
          :value="style.colour ?? theme.body.colour"
          @change="emit('set', { colour: value($event) })"
      /></label>
      <label class="relative" :class="toggle" :title="t('styleFields.colourBehind')"
        ><span class="size-3.5 border border-default" :style="{ background: style.fill ?? '#ffffff' }" /><input
          type="color"
          class="absolute inset-0 cursor-pointer opacity-0"
          :aria-label="t('styleFields.colourBehind')"
          :value="style.fill ?? '#ffffff'"
          @change="emit('set', { fill: value($event) })"
      /></label>
      <template v-if="full"
        ><span class="grow" /><button
          v-for="each in aligns"
          :key="each.align"
          :class="[toggle, (style.align ?? 'left') === each.align ? on : '']"
          :aria-label="each.align"
          :aria-pressed="(style.align ?? 'left') === each.align"
          @click="emit('set', { align: each.align })"
        >
          <UIcon :name="each.icon" class="size-4" /></button
      ></template>
    </div>
    <details v-if="full" class="text-sm">
      <summary class="cursor-pointer text-muted">{{ t('styleFields.moreOfItsLook') }}</summary>
      <div class="space-y-1.5 pt-1.5">
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('styleFields.styleOfTheTheme') }}</span
          ><PickField
            class="w-32"
            :value="style.named ?? ''"
            :aria-label="t('styleFields.styleOfTheTheme')"
            @pick="emit('set', { named: $event || undefined })"
          >
            <option value="">{{ t('common.none') }}</option>
            <option v-for="(_, name) in theme.named" :key="name">{{ name }}</option>
          </PickField></label
        >
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('styleFields.typeface') }}</span
          ><PickField
            class="w-32"
            :value="style.font ?? 'sans'"
            :aria-label="t('styleFields.typeface')"
            @pick="emit('set', { font: $event as 'sans' })"
          >
            <option value="sans">{{ t('styleFields.sans') }}</option>
            <option value="serif">{{ t('styleFields.serif') }}</option>
          </PickField></label
        >
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('styleFields.tooWide') }}</span
          ><PickField
            class="w-32"
            :value="style.overflow ?? 'wrap'"
            :aria-label="t('styleFields.textThatIsTooWide')"
            @pick="emit('set', { overflow: $event === 'wrap' ? undefined : ($event as 'cut') })"
          >
            <option value="wrap">{{ t('styleFields.wraps') }}</option>
            <option value="cut">{{ t('styleFields.isCutWith') }}</option>
            <option value="shrink">{{ t('styleFields.shrinksToFit') }}</option>
          </PickField></label
        >
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('styleFields.inItsRow') }}</span
          ><PickField
            class="w-32"
            :value="style.vertical ?? 'top'"
            :aria-label="t('styleFields.placeInItsRow')"
            @pick="emit('set', { vertical: $event as 'top' })"
          >
            <option value="top">{{ t('styleFields.top') }}</option>
            <option value="middle">{{ t('styleFields.middle') }}</option>
            <option value="bottom">{{ t('styleFields.bottom') }}</option>
          </PickField></label
        >
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('styleFields.indentMm') }}</span
          ><NumberField
            :least="0"
            class="w-20"
            :aria-label="t('styleFields.indentInMillimetres')"
            :value="Math.round(((style.indent ?? 0) / 72) * 254) / 10"
            @write="emit('set', { indent: $event > 0 ? ($event * 72) / 25.4 : undefined })"
        /></label>
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="accent-petrol-700"
            :checked="!!style.rotated"
            @change="emit('set', { rotated: style.rotated ? undefined : true })"
          />
          {{ t('styleFields.writtenUpwards') }}</label
        >
        <label v-if="marks" class="flex items-start gap-2"
          ><input
            type="checkbox"
            class="mt-1 accent-petrol-700"
            :checked="!!style.marks"
            @change="emit('set', { marks: style.marks ? undefined : true })"
          /><span
            >{{ t('styleFields.marksInTheText')
            }}<span class="block text-xs text-muted">{{ t('styleFields.boldItalicWordsHttpsWords') }}</span></span
          ></label
        >
        <UButton
          size="xs"
          variant="outline"
          color="neutral"
          @click="emit('set', Object.fromEntries(Object.keys(style).map(key => [key, undefined])))"
          >{{ t('styleFields.asTheThemeHasIt') }}</UButton
        >
      </div>
    </details>
  </div>
</template>
