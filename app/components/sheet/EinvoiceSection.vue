<script setup lang="ts">
import { isRepeat, type RepeatBlock } from '../../../core/definition/blocks/block'
import { addInvoiceGroup, removeInvoiceGroup, setInvoiceGroup, setInvoices, setTerm } from '../../../core/definition/edits/einvoice'
import { type TermGroup, terms } from '../../../core/einvoice/terms'
import { proposeInvoices } from '../../../core/templates/einvoice'

/** Each record of the selected repeat as an e-invoice: which formula fills which term, proposed by names, beside the page. */
const { report, block } = useSheetSelection()
const repeat = computed(() => (block.value && isRepeat(block.value) ? (block.value as RepeatBlock) : undefined))
const levels = computed(() => report.tree?.levels ?? [])
const at = computed(() =>
  Math.max(
    0,
    levels.value.findIndex(each => each.name === repeat.value?.level),
  ),
)
const scopeAt = (level: number) => ({ levels: levels.value, level, parameters: report.model!.parameterTypes })
const levelOf = (name: string | undefined) =>
  name === undefined
    ? at.value
    : Math.max(
        0,
        levels.value.findIndex(each => each.name === name),
      )
const levelItems = computed(() => [
  { value: '·', label: t('einvoice.documentItself') },
  ...levels.value.filter(each => each.index !== at.value).map(each => ({ value: each.name, label: each.caption })),
])
const groupNames: Record<TermGroup, string> = {
  'BG-20': t('einvoice.allowances'),
  'BG-21': t('einvoice.charges'),
  'BG-23': t('einvoice.taxes'),
  'BG-25': t('einvoice.lines'),
}
const parts = computed(() => {
  const { einvoice } = repeat.value ?? {}
  if (!einvoice) return []
  const part = (group: TermGroup | undefined, place: number | undefined, formulas: Readonly<Record<string, string>>) => {
    const own = terms.filter(term => term.group === group)
    return {
      group,
      place,
      filled: own.filter(term => term.must || formulas[term.id] !== undefined),
      others: own
        .filter(term => !term.must && formulas[term.id] === undefined)
        .map(({ id, name }) => ({ value: id, label: `${id} ${tell(name)}` })),
      formulas,
      level: place === undefined ? undefined : einvoice.groups[place]!.level,
      when: place === undefined ? undefined : einvoice.groups[place]!.when,
    }
  }
  return [part(undefined, undefined, einvoice.terms), ...einvoice.groups.map((each, place) => part(each.group, place, each.terms))]
})
/** terms that were picked to be filled, by their part */
const picked = ref<string[]>([])
watch(
  () => block.value?.id,
  () => (picked.value = []),
)
const keyOf = (place: number | undefined, id: string) => `${place ?? ''} ${id}`
const edit = (change: Parameters<typeof report.edit>[1]) => report.edit(t('einvoice.eInvoice'), change)
function propose(): void {
  // credit notes stand with amounts below zero where their records are chosen by that kind
  const credit = levels.value[at.value]!.definition.filters.some(each => /credit|gutschrift|cr[eé]dito|abono/i.test(each))
  edit(now => setInvoices(now, repeat.value!.id, proposeInvoices(levels.value, at.value, credit ? '381' : '380')))
}
</script>

<template>
  <SheetSection v-if="repeat && report.tree" :title="t('einvoice.eInvoice')">
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-petrol-700"
        data-einvoice
        :checked="!!repeat.einvoice"
        @change="repeat.einvoice ? edit(now => setInvoices(now, repeat!.id, undefined)) : propose()"
      />
      {{ t('einvoice.eachDocumentAsOne') }}</label
    >
    <template v-if="repeat.einvoice">
      <p class="text-xs text-muted">{{ t('einvoice.termsOfTheStandard') }}</p>
      <div
        v-for="part in parts"
        :key="part.place ?? -1"
        class="space-y-2 border-t border-default pt-2"
        :data-terms="part.group ?? 'document'"
      >
        <div class="flex items-center justify-between">
          <h4 class="font-semibold">{{ part.group ? groupNames[part.group] : t('einvoice.document') }}</h4>
          <UButton
            v-if="part.place !== undefined"
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            :aria-label="t('einvoice.takeOut', { group: groupNames[part.group!] })"
            @click="edit(now => removeInvoiceGroup(now, repeat!.id, part.place!))"
          />
        </div>
        <template v-if="part.place !== undefined">
          <label class="flex items-center gap-2"
            ><span class="w-16 shrink-0 text-muted">{{ t('einvoice.recordsOf') }}</span
            ><USelect
              :model-value="part.level ?? '·'"
              :items="levelItems"
              size="xs"
              class="min-w-0 grow"
              :placeholder="t('einvoice.documentItself')"
              :aria-label="t('einvoice.recordsOf')"
              @update:model-value="
                value => edit(now => setInvoiceGroup(now, repeat!.id, part.place!, { level: value === '·' ? '' : String(value) }))
              "
          /></label>
          <SheetRuleField
            :value="part.when ?? ''"
            :scope="scopeAt(levelOf(part.level))"
            :label="t('einvoice.onlyWhere')"
            @set="edit(now => setInvoiceGroup(now, repeat!.id, part.place!, { when: $event }))"
          />
        </template>
        <template v-for="term in terms.filter(each => each.group === part.group)" :key="term.id">
          <SheetRuleField
            v-if="part.filled.includes(term) || picked.includes(keyOf(part.place, term.id))"
            :value="part.formulas[term.id] ?? ''"
            :scope="scopeAt(levelOf(part.level))"
            :test="false"
            :label="`${term.id} ${tell(term.name)}`"
            :hint="t('einvoice.notFilled')"
            @set="edit(now => setTerm(now, repeat!.id, term.id, $event, part.place))"
          />
        </template>
        <USelectMenu
          v-if="part.others.length"
          :model-value="undefined"
          :items="part.others.filter(each => !picked.includes(keyOf(part.place, each.value)))"
          value-key="value"
          size="xs"
          class="w-full"
          :placeholder="t('einvoice.fillAnother')"
          :aria-label="t('einvoice.fillAnother')"
          @update:model-value="value => value && picked.push(keyOf(part.place, String(value)))"
        />
      </div>
      <div class="flex flex-wrap gap-1 border-t border-default pt-2">
        <UButton
          v-for="(name, group) in groupNames"
          :key="group"
          size="xs"
          variant="outline"
          color="neutral"
          icon="i-lucide-plus"
          @click="edit(now => addInvoiceGroup(now, repeat!.id, group))"
          >{{ name }}</UButton
        >
        <UButton size="xs" variant="outline" color="neutral" icon="i-lucide-wand-sparkles" @click="propose">{{
          t('einvoice.proposeAnew')
        }}</UButton>
      </div>
    </template>
  </SheetSection>
</template>
