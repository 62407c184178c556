<script setup lang="ts">
import { alignItems, type Alignment, removeItem, setItem, setItemWidth } from '../../../core/definition/edits/edits'
import { setPayeeTerm } from '../../../core/definition/edits/items'
import { codeKinds, payeeTerms } from '../../../core/definition/blocks/panel'
import { paymentTerms } from '../../../core/payment/transfer'

/** The selected item of a panel, or several of them. */
const { report, sheet, selection, block, item, scope } = useSheetSelection()
const value = (event: Event) => (event.target as HTMLInputElement).value
const mm = (points: number) => Math.round((points / 72) * 254) / 10
const points = (millimetres: number) => (millimetres * 72) / 25.4
const words = {
  text: t('common.text'),
  image: t('itemSection.picture'),
  rule: t('common.line2'),
  box: t('itemSection.box'),
  code: t('itemSection.code'),
  payment: t('itemSection.paymentQr'),
} as const
const set = (change: Parameters<typeof setItem>[3]) =>
  report.edit(t('itemSection.item'), now => setItem(now, block.value!.id, item.value!.id, change))
const several = computed(() => [selection.value!.cell!, ...(selection.value!.more ?? [])])
const sides: { how: Alignment; icon: string; label: string }[] = [
  { how: 'left', icon: 'i-lucide-align-start-vertical', label: t('itemSection.leftEdgesInLine') },
  { how: 'centre', icon: 'i-lucide-align-center-vertical', label: t('itemSection.centresInLine') },
  { how: 'right', icon: 'i-lucide-align-end-vertical', label: t('itemSection.rightEdgesInLine') },
  { how: 'top', icon: 'i-lucide-align-start-horizontal', label: t('itemSection.upperEdgesInLine') },
  { how: 'bottom', icon: 'i-lucide-align-end-horizontal', label: t('itemSection.lowerEdgesInLine') },
  { how: 'spreadAcross', icon: 'i-lucide-align-horizontal-space-around', label: t('itemSection.sameDistanceAcross') },
  { how: 'spreadDown', icon: 'i-lucide-align-vertical-space-around', label: t('itemSection.sameDistanceDown') },
]
function align(how: Alignment): void {
  const page = sheet.pages.get(selection.value!.page)
  const heights = Object.fromEntries(
    (page?.boxes ?? []).filter(box => box.block === block.value!.id && box.cell).map(box => [box.cell!, box.height]),
  )
  report.edit(t('itemSection.align'), now => alignItems(now, block.value!.id, several.value, how, heights))
}
const termName = (id: string) => tell(paymentTerms.find(term => term.id === id)!.name)
const problem = ref('')
async function file(event: Event): Promise<void> {
  const [chosen] = (event.target as HTMLInputElement).files ?? []
  if (!chosen) return
  problem.value = ''
  try {
    set({ svg: await pictureOf(chosen), from: undefined })
  } catch (error) {
    problem.value = (error as Error).message
  }
}
</script>

<template>
  <SheetSection
    v-if="item"
    :title="several.length > 1 ? t('itemSection.theseItems') : t('itemSection.this', { words: words[item.kind] })"
    :note="several.length > 1 ? String(several.length) : item.id"
  >
    <div v-if="several.length > 1" class="flex flex-wrap gap-1">
      <UTooltip v-for="each in sides" :key="each.how" :text="each.label"
        ><UButton size="xs" variant="outline" color="neutral" :icon="each.icon" :aria-label="each.label" @click="align(each.how)"
      /></UTooltip>
    </div>
    <template v-else>
      <label class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('common.widthMm') }}</span
        ><NumberField
          :least="2"
          class="w-20"
          :aria-label="t('itemSection.widthInMillimetres')"
          :value="mm(item.width)"
          @write="report.edit(t('common.width'), now => setItemWidth(now, block!.id, item!.id, points($event)))"
      /></label>
      <label v-if="item.kind !== 'text'" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('itemSection.heightMm') }}</span
        ><NumberField
          :least="0"
          class="w-20"
          :aria-label="t('itemSection.heightInMillimetres')"
          :value="mm(item.height ?? 0)"
          @write="set({ height: points($event) })"
      /></label>
      <label v-if="item.kind === 'rule' || item.kind === 'box'" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('itemSection.thicknessPoints') }}</span
        ><NumberField :least="0" :step="0.25" class="w-20" :value="item.thickness ?? 0.75" @write="set({ thickness: $event })"
      /></label>
      <label v-if="item.kind === 'rule'" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('itemSection.colour') }}</span
        ><input type="color" :value="item.colour" @change="set({ colour: value($event) })"
      /></label>
      <template v-if="item.kind === 'box'">
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('itemSection.border') }}</span
          ><input type="color" :value="item.border ?? '#26221d'" @change="set({ border: value($event) })"
        /></label>
        <label class="flex items-center justify-between gap-2"
          ><span class="text-muted">{{ t('itemSection.colourInside') }}</span
          ><input type="color" :value="item.fill ?? '#ffffff'" @change="set({ fill: value($event) })"
        /></label>
      </template>
      <label v-if="item.kind === 'code'" class="flex items-center justify-between gap-2"
        ><span class="text-muted">{{ t('itemSection.kindOfCode') }}</span
        ><PickField class="w-36" :value="item.code" @pick="set({ code: $event })">
          <option v-for="kind in codeKinds" :key="kind" :value="kind">
            {{
              {
                qrcode: t('itemSection.qr'),
                code128: t('itemSection.code128'),
                ean13: t('itemSection.ean13'),
                gs1datamatrix: t('itemSection.gs1DataMatrix'),
                datamatrix: t('itemSection.dataMatrix'),
              }[kind]
            }}
          </option>
        </PickField></label
      >
      <template v-if="item.kind === 'image'">
        <label class="block"
          ><span class="text-muted">{{ t('itemSection.filePngJpegOrSvg') }}</span
          ><input type="file" accept="image/png,image/jpeg,image/svg+xml" class="mt-0.5 w-full text-xs" @change="file"
        /></label>
        <SheetRuleField
          :value="item.from ?? ''"
          :scope="scope"
          :test="false"
          :label="t('itemSection.orFromAField')"
          hint="item.picture"
          @set="set({ from: $event })"
        />
        <p v-if="problem" class="text-xs text-error" role="alert">{{ tell(problem) }}</p>
      </template>
      <template v-if="item.kind === 'payment'">
        <SheetRuleField
          v-for="id in payeeTerms"
          :key="id"
          :value="item.terms[id] ?? ''"
          :scope="scope"
          :test="false"
          :label="termName(id)"
          :hint="t('einvoice.notFilled')"
          @set="report.edit(t('itemSection.paymentQr'), now => setPayeeTerm(now, block!.id, item!.id, id, $event))"
        />
      </template>
      <template v-if="item.kind === 'image' || item.kind === 'code' || item.kind === 'payment'">
        <label v-if="item.alt !== ''" class="block"
          ><span class="text-muted">{{ t('itemSection.readAloudAs') }}</span
          ><TextField
            :value="item.alt ?? ''"
            class="mt-0.5 w-full"
            :placeholder="item.kind === 'image' ? t('itemSection.whatItShows') : t('itemSection.whatItHolds')"
            :aria-label="t('itemSection.readAloudAs')"
            @write="set({ alt: $event || undefined })"
        /></label>
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="accent-petrol-700"
            :checked="item.alt === ''"
            @change="set({ alt: item.alt === '' ? undefined : '' })"
          />
          {{ t('itemSection.onlyDecoration') }}</label
        >
      </template>
      <SheetRuleField :value="item.showWhen ?? ''" :scope="scope" :label="t('itemSection.showWhen')" @set="set({ showWhen: $event })" />
    </template>
    <UButton
      size="xs"
      variant="outline"
      color="error"
      icon="i-lucide-trash-2"
      @click="
        () => {
          report.edit('Delete', now => several.reduce((sum, each) => removeItem(sum, block!.id, each), now))
          sheet.selection = undefined
        }
      "
      >{{
        t('itemSection.delete', { what: several.length > 1 ? t('itemSection.these') : t('itemSection.this2', { words: words[item.kind] }) })
      }}</UButton
    >
  </SheetSection>
</template>
