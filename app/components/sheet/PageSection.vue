<script setup lang="ts">
import { themes } from '../../../core/compose/themes'
import { themeNamed } from '../../../core/compose/style'
import { isRepeat } from '../../../core/definition/blocks/block'
import { addEdge, putTheme, setLayout, setPage } from '../../../core/definition/edits/edits'
import { type PageSetup, pageSizes } from '../../../core/definition/page'
import type { ThemeDefinition } from '../../../core/definition/style'

/** Paper, margins, theme, and what stands on every page. */
const report = useReport()
const value = (event: Event) => (event.target as HTMLInputElement).value
const on = (event: Event) => (event.target as HTMLInputElement).checked
const mm = (points: number) => Math.round((points / 72) * 254) / 10
const layout = computed(() => report.layout!)
const page = computed(() => layout.value.page)
const set = (label: string, change: Partial<PageSetup>) => report.edit(label, now => setPage(now, change, layout.value.name))
const setSize = (size: PageSetup['size']) =>
  set(t('pageSection.pageSize'), size === 'own' ? { size, width: 250, height: 400 } : { size, width: undefined, height: undefined })
/** documents are kept and read aloud, unless it is said otherwise */
const archived = computed(() => layout.value.archive ?? layout.value.blocks.some(block => isRepeat(block) && block.restartNumbers))
const names = computed(() => [...themes, ...(report.definition!.themes ?? [])].map(theme => theme.name))
const theme = computed(() => themeNamed(layout.value.theme, report.definition!.themes))
const own = computed(() => report.definition!.themes?.some(each => each.name === theme.value.name))
const name = ref('')
/** A theme of one's own starts from the one in use. */
function keep(): void {
  const chosen = name.value.trim()
  if (!chosen || themes.some(each => each.name === chosen)) return
  report.edit(t('pageSection.keepTheme'), now =>
    setLayout(putTheme(now, { ...theme.value, name: chosen }), layout.value.name, { theme: chosen }),
  )
  name.value = ''
}
async function keepHead(): Promise<void> {
  await report.keepLetterhead(plain(layout.value.top!)).catch((error: Error) => (report.saveProblem = error.message))
}
const change = (next: Partial<ThemeDefinition>) => report.edit(t('pageSection.theme'), now => putTheme(now, { ...theme.value, ...next }))
const edges = [
  { edge: 'top', label: t('pageSection.pageTop') },
  { edge: 'foot', label: t('pageSection.pageFoot') },
  { edge: 'firstTop', label: t('pageSection.anotherTopOnFirstPages') },
  { edge: 'firstFoot', label: t('pageSection.anotherFootOnFirstPages') },
] as const
</script>

<template>
  <SheetSection :title="t('pageSection.thePage')" :note="layout.name">
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('pageSection.size') }}</span
      ><PickField class="w-36" :aria-label="t('pageSection.pageSize')" :value="page.size" @pick="setSize($event as 'A4')">
        <option v-for="size in pageSizes" :key="size" :value="size">{{ size === 'own' ? t('pageSection.aSizeOfItsOwn') : size }}</option>
      </PickField></label
    >
    <div v-if="page.size === 'own'" class="flex items-center justify-between gap-2">
      <span class="text-muted">{{ t('pageSection.wideHighMm') }}</span><span class="flex gap-1"
        ><NumberField
          v-for="side in ['width', 'height'] as const"
          :key="side"
          :least="15"
          class="w-[4.3rem]"
          :aria-label="side"
          :value="mm(page[side] ?? 0)"
          @write="set(t('pageSection.pageSize'), { [side]: Math.max(36, ($event * 72) / 25.4) })"
      /></span>
    </div>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('pageSection.orientation') }}</span
      ><PickField
        class="w-36"
        :aria-label="t('pageSection.orientation')"
        :value="page.orientation"
        @pick="set(t('pageSection.orientation'), { orientation: $event as 'portrait' })"
      >
        <option value="portrait">{{ t('pageSection.portrait') }}</option>
        <option value="landscape">{{ t('pageSection.landscape') }}</option>
      </PickField></label
    >
    <div class="flex items-center justify-between gap-2">
      <span class="shrink-0 text-muted">{{ t('pageSection.marginsMm') }}</span><span class="flex gap-0.5"
        ><NumberField
          v-for="side in ['top', 'right', 'bottom', 'left'] as const"
          :key="side"
          tight
          :least="0"
          class="w-9"
          :title="side"
          :aria-label="t('pageSection.marginAtThe', { side })"
          :value="Math.round(mm(page.margins[side]))"
          @write="set(t('pageSection.margins'), { margins: { ...page.margins, [side]: ($event * 72) / 25.4 } })"
      /></span>
    </div>
    <div class="flex items-center justify-between gap-2">
      <span class="text-muted">{{ t('pageSection.columnsGapMm') }}</span><span class="flex gap-1"
        ><NumberField
          whole
          :least="1"
          :most="12"
          class="w-14"
          :aria-label="t('common.columns')"
          :value="page.columns?.count ?? 1"
          @write="
            set(t('common.columns'), { columns: $event > 1 ? { gap: 12, ...page.columns, count: $event } : undefined })
          " /><NumberField
          :least="0"
          class="w-14"
          :aria-label="t('pageSection.gapBetweenColumns')"
          :disabled="!page.columns"
          :value="mm(page.columns?.gap ?? 0)"
          @write="set(t('common.columns'), { columns: { ...page.columns!, gap: ($event * 72) / 25.4 } })"
      /></span>
    </div>
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('pageSection.theme') }}</span
      ><PickField
        class="w-36"
        :aria-label="t('pageSection.theme')"
        :value="theme.name"
        @pick="report.edit(t('pageSection.theme'), now => setLayout(now, layout.name, { theme: $event }))"
      >
        <option v-for="each in names" :key="each">{{ each }}</option>
      </PickField></label
    >
    <label class="flex items-center justify-between gap-2"
      ><span class="text-muted">{{ t('pageSection.pdf') }}</span
      ><PickField
        class="w-36"
        :aria-label="t('pageSection.pdf')"
        :value="archived ? 'archive' : 'plain'"
        @pick="report.edit(t('pageSection.pdf'), now => setLayout(now, layout.name, { archive: $event === 'archive' }))"
      >
        <option value="archive">{{ t('pageSection.pdfKept') }}</option>
        <option value="plain">{{ t('pageSection.pdfPlain') }}</option>
      </PickField></label
    >
    <details>
      <summary class="cursor-pointer text-muted">{{ own ? t('pageSection.changeThisTheme') : t('pageSection.aThemeOfYourOwn') }}</summary>
      <div class="space-y-1.5 pt-1.5">
        <template v-if="own">
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('pageSection.sizeOfTheLetters') }}</span
            ><NumberField
              :least="5"
              :most="20"
              :step="0.5"
              class="w-20"
              :value="theme.body.size"
              @write="change({ body: { ...theme.body, size: $event } })"
          /></label>
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('common.lines') }}</span
            ><input type="color" :value="theme.line" @change="change({ line: value($event) })"
          /></label>
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('pageSection.everyOtherLine') }}</span
            ><input type="color" :value="theme.band ?? '#ffffff'" @change="change({ band: value($event) })"
          /></label>
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('pageSection.behindTitles') }}</span
            ><input
              type="color"
              :value="theme.rows.titles.fill ?? '#ffffff'"
              @change="change({ rows: { ...theme.rows, titles: { ...theme.rows.titles, fill: value($event) } } })"
          /></label>
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('pageSection.lettersOfTitles') }}</span
            ><input
              type="color"
              :value="theme.rows.titles.colour ?? '#26221d'"
              @change="change({ rows: { ...theme.rows, titles: { ...theme.rows.titles, colour: value($event) } } })"
          /></label>
          <label class="flex items-center justify-between gap-2"
            ><span class="text-muted">{{ t('pageSection.colourOfHeadings') }}</span
            ><input
              type="color"
              :value="theme.named.title?.colour ?? '#0f4c5c'"
              @change="change({ named: { ...theme.named, title: { ...theme.named.title, colour: value($event) } } })"
          /></label>
        </template>
        <div class="flex gap-1">
          <input
            v-model="name"
            class="min-w-0 grow rounded-md border border-default bg-default px-2 py-1"
            :placeholder="t('pageSection.nameOfTheTheme')"
            :aria-label="t('pageSection.nameOfTheTheme2')"
            @keydown.stop
            @keydown.enter.prevent="keep"
          /><UButton size="xs" variant="outline" color="neutral" :disabled="!name.trim()" @click="keep">{{
            t('pageSection.keepAs')
          }}</UButton>
        </div>
      </div>
    </details>
    <label v-if="report.letterhead" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!layout.letterhead"
        @change="report.edit(t('pageSection.letterhead'), now => setLayout(now, layout.name, { letterhead: on($event) || undefined }))"
      />
      {{ t('pageSection.theLetterheadOfAllReports') }}</label
    >
    <label v-for="each in edges" :key="each.edge" class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        :checked="!!layout[each.edge]"
        @change="
          report.edit(each.label, now =>
            on($event) ? addEdge(now, layout.name, each.edge) : setLayout(now, layout.name, { [each.edge]: undefined }),
          )
        "
      />
      {{ each.label }}</label
    >
    <label class="block"
      ><span class="text-muted">{{ t('pageSection.nameOfEachDocumentS') }}</span
      ><TextField
        mono
        class="mt-0.5 w-full"
        :placeholder="t('pageSection.invoiceNumber')"
        :aria-label="t('pageSection.nameOfEachDocumentS')"
        :value="layout.documentName ?? ''"
        @write="report.edit(t('pageSection.fileNames'), now => setLayout(now, layout.name, { documentName: $event }))"
    /></label>
    <UButton v-if="layout.top && !layout.letterhead" size="xs" variant="outline" color="neutral" @click="keepHead">{{
      t('pageSection.keepThisPageTopAs')
    }}</UButton>
  </SheetSection>
</template>
