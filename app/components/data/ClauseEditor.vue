<script setup lang="ts">
import { clauseType, type ClauseTest, type ClauseValue, type FilterPart, testsFor, testWords } from '../../../core/formula/clauses'
import type { LevelInfo } from '../../../core/formula/typed'
import type { ValueType } from '../../../core/value/value'
import { parameterTypes } from '../../../core/definition/parameters'
import { dayText, parseDay } from '../../../core/value/date'
import { decimalText, parseDecimal } from '../../../core/value/decimal'

/** One part of a filter: a clause, a group of parts with and/or/not, a question to a level below, or a formula. */
const { level, levels, deep = 0 } = defineProps<{ level: LevelInfo; levels: readonly LevelInfo[]; deep?: number }>()
const part = defineModel<FilterPart>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const report = useReport()

const fields = computed(() =>
  [...level.fields.values()]
    .filter(field => field.inSql !== false)
    .map(field => ({ label: fieldTitle(field), value: field.path, hint: field.path, key: field.role === 'key' ? 1 : 0 }))
    .sort((a, b) => a.key - b.key),
)
const typeOf = (path: string): ValueType => clauseType(level.fields.get(path)?.type ?? 'text')
const tests = computed(() =>
  part.value.is === 'clause' ? testsFor(typeOf(part.value.field)).map(test => ({ label: tell(testWords[test]), value: test })) : [],
)
const kinds = computed(() => Object.fromEntries(report.definition!.parameters.map(each => [each.name, each.kind])))
const parameters = computed(() => {
  if (part.value.is !== 'clause') return []
  const { test, field } = part.value
  const types = parameterTypes(report.definition!.parameters)
  return report.definition!.parameters.filter(each => {
    if (test === 'within') return ['month', 'period', 'dates'].includes(each.kind)
    if (test === 'oneOf' || test === 'notOneOf') return each.kind === 'choices' || types[each.name] === typeOf(field)
    return each.kind !== 'choices' && types[each.name] === typeOf(field)
  })
})
const countOf = (test: ClauseTest) => (test === 'empty' || test === 'notEmpty' ? 0 : test === 'between' ? 2 : 1)
const several = computed(() => part.value.is === 'clause' && (part.value.test === 'oneOf' || part.value.test === 'notOneOf'))

function blank(type: ValueType): ClauseValue {
  return {
    is: 'constant',
    type,
    value: type === 'number' ? { units: 0, scale: 0 } : type === 'date' ? report.today : type === 'boolean' ? true : '',
  }
}
function setField(field: string): void {
  if (part.value.is !== 'clause') return
  const type = typeOf(field)
  const same = typeOf(part.value.field) === type
  const test = same ? part.value.test : testsFor(type)[type === 'date' ? 1 : 0]!
  part.value = same
    ? { ...part.value, field }
    : { is: 'clause', field, test, values: Array.from({ length: countOf(test) }, () => blank(type)) }
}
function setTest(test: ClauseTest): void {
  if (part.value.is !== 'clause') return
  const type = test === 'lastDays' || test === 'lastMonths' ? 'number' : typeOf(part.value.field)
  if (test === 'within') {
    const held = part.value.values[0]
    const found =
      held?.is === 'parameter' && ['month', 'period', 'dates'].includes(kinds.value[held.name]!)
        ? held.name
        : report.definition!.parameters.find(each => ['month', 'period', 'dates'].includes(each.kind))?.name
    part.value = found
      ? { ...part.value, test, values: [{ is: 'parameter', name: found }] }
      : { ...part.value, test: 'between', values: [blank('date'), blank('date')] }
    return
  }
  const fits = (value: ClauseValue) =>
    value.is === 'formula' ||
    (value.is === 'constant' && value.type === type) ||
    (value.is === 'parameter' &&
      test !== 'lastDays' &&
      test !== 'lastMonths' &&
      !(kinds.value[value.name] === 'choices' && test !== 'oneOf' && test !== 'notOneOf'))
  const kept = part.value.values.filter(fits)
  const count = countOf(test)
  part.value = {
    ...part.value,
    test,
    values:
      test === 'oneOf' || test === 'notOneOf'
        ? kept.length
          ? kept
          : []
        : Array.from(
            { length: count },
            (_, index) =>
              kept[index] ??
              (type === 'number' && test.startsWith('last') ? { is: 'constant', type, value: { units: 30, scale: 0 } } : blank(type)),
          ),
  }
}
function setValue(index: number, value: ClauseValue): void {
  if (part.value.is === 'clause') part.value = { ...part.value, values: part.value.values.map((each, at) => (at === index ? value : each)) }
}
const written = (value: ClauseValue) =>
  value.is !== 'constant'
    ? ''
    : value.type === 'date'
      ? dayText(value.value as number)
      : value.type === 'number'
        ? decimalText(value.value as never)
        : String(value.value)
const bad = ref(new Set<number>())
function write(index: number, text: string): void {
  if (part.value.is !== 'clause') return
  const value = part.value.values[index]!
  const type = value.is === 'constant' ? value.type : typeOf(part.value.field)
  const read = type === 'number' ? parseDecimal(text) : type === 'date' ? parseDay(text) : type === 'boolean' ? text === 'true' : text
  if (read === undefined) return void bad.value.add(index)
  bad.value.delete(index)
  setValue(index, { is: 'constant', type, value: read as string })
}
const menu = (index: number) => [
  [
    {
      label: t('clauseEditor.aValue'),
      onSelect: () => setValue(index, blank(part.value.is === 'clause' ? typeOf(part.value.field) : 'text')),
    },
    ...parameters.value.map(each => ({
      label: t('clauseEditor.parameter', { label: each.label }),
      onSelect: () => setValue(index, { is: 'parameter', name: each.name }),
    })),
  ],
  [
    {
      label: t('clauseEditor.anotherFieldOrAFormula'),
      onSelect: () => setValue(index, { is: 'formula', text: part.value.is === 'clause' ? part.value.field : '' }),
    },
  ],
]
const labelOf = (name: string) => report.definition!.parameters.find(each => each.name === name)?.label ?? name

const tags = computed({
  get: () =>
    part.value.is === 'clause' ? part.value.values.map(value => (value.is === 'constant' ? written(value) : '')).filter(Boolean) : [],
  set: (list: string[]) => {
    if (part.value.is !== 'clause') return
    const type = typeOf(part.value.field)
    const values = list.flatMap((text): ClauseValue[] => {
      const read = type === 'number' ? parseDecimal(text) : type === 'date' ? parseDay(text) : type === 'boolean' ? text === 'true' : text
      return read === undefined ? [] : [{ is: 'constant', type, value: read as string }]
    })
    part.value = { ...part.value, values }
  },
})
const listParameter = computed(() =>
  part.value.is === 'clause' && part.value.values.length === 1 && part.value.values[0]!.is === 'parameter'
    ? part.value.values[0]!.name
    : '',
)

const newClause = (of: LevelInfo): FilterPart => {
  const field = [...of.fields.values()].find(each => each.role !== 'key') ?? [...of.fields.values()][0]!
  const type = clauseType(field.type)
  const test = testsFor(type)[type === 'date' ? 1 : 0]!
  return { is: 'clause', field: field.path, test, values: Array.from({ length: countOf(test) }, () => blank(type)) }
}
function setPart(index: number, next: FilterPart | undefined): void {
  if (part.value.is !== 'group') return
  part.value = { ...part.value, parts: part.value.parts.flatMap((each, at) => (at !== index ? [each] : next ? [next] : [])) }
}
const children = computed(() => level.children.map(index => levels[index]!).filter(Boolean))
const below = computed(() =>
  part.value.is === 'has' ? levels.find(each => each.name === (part.value as { level: string }).level) : undefined,
)
</script>

<template>
  <div v-if="part.is === 'clause'" class="flex flex-wrap items-center gap-1.5" data-clause>
    <USelectMenu
      :model-value="part.field"
      :items="fields"
      value-key="value"
      size="sm"
      class="w-44"
      :search-input="{ placeholder: t('common.findAField') }"
      :aria-label="t('clauseEditor.field')"
      @update:model-value="(field: string) => setField(field)"
      ><template #item-trailing="{ item }"
        ><span class="text-xs text-dimmed">{{ item.hint }}</span></template
      ></USelectMenu
    >
    <USelect
      :model-value="part.test"
      :items="tests"
      size="sm"
      class="w-36"
      :aria-label="t('clauseEditor.test')"
      @update:model-value="test => setTest(test as ClauseTest)"
    />
    <template v-if="several">
      <span
        v-if="listParameter"
        class="rounded bg-petrol-100 px-1.5 py-0.5 text-sm text-petrol-800 dark:bg-petrol-900 dark:text-petrol-100"
        >{{ labelOf(listParameter) }}</span
      >
      <UInputTags
        v-else
        v-model="tags"
        size="sm"
        class="min-w-48 grow"
        :placeholder="t('clauseEditor.typeAValueEnter')"
        :aria-label="t('clauseEditor.values')"
      />
      <UDropdownMenu
        :items="[
          [
            {
              label: t('clauseEditor.values'),
              onSelect: () => {
                part = { ...part, values: [] } as FilterPart
              },
            },
            ...parameters.map(each => ({
              label: t('clauseEditor.parameter', { label: each.label }),
              onSelect: () => {
                part = { ...part, values: [{ is: 'parameter', name: each.name }] } as FilterPart
              },
            })),
          ],
        ]"
        ><UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-chevron-down"
          :aria-label="t('clauseEditor.whatItIsComparedWith')"
      /></UDropdownMenu>
    </template>
    <template v-for="(value, index) in several ? [] : part.values" :key="index">
      <span v-if="index" class="text-sm text-muted">{{ t('clauseEditor.and') }}</span>
      <span
        v-if="value.is === 'parameter'"
        class="rounded bg-petrol-100 px-1.5 py-0.5 text-sm text-petrol-800 dark:bg-petrol-900 dark:text-petrol-100"
        >{{ labelOf(value.name) }}</span
      >
      <UInput
        v-else-if="value.is === 'formula'"
        :model-value="value.text"
        size="sm"
        class="w-44 font-mono"
        :placeholder="t('clauseEditor.fieldOrFormula')"
        :aria-label="t('common.formula')"
        @update:model-value="text => setValue(index, { is: 'formula', text: String(text) })"
      />
      <USelect
        v-else-if="value.type === 'boolean'"
        :model-value="String(value.value)"
        :items="[
          { label: t('clauseEditor.yes'), value: 'true' },
          { label: t('clauseEditor.no'), value: 'false' },
        ]"
        size="sm"
        class="w-20"
        :aria-label="t('clauseEditor.value')"
        @update:model-value="text => write(index, String(text))"
      />
      <UInput
        v-else
        :model-value="written(value)"
        :type="value.type === 'date' ? 'date' : 'text'"
        size="sm"
        :color="bad.has(index) ? 'error' : 'primary'"
        :class="part.test.startsWith('last') ? 'w-16' : 'w-36'"
        :aria-label="t('clauseEditor.value')"
        @update:model-value="text => write(index, String(text))"
      />
      <UDropdownMenu v-if="!part.test.startsWith('last')" :items="menu(index)"
        ><UButton
          size="xs"
          variant="ghost"
          color="neutral"
          icon="i-lucide-chevron-down"
          :aria-label="t('clauseEditor.whatItIsComparedWith')"
      /></UDropdownMenu>
    </template>
    <span v-if="part.test === 'lastDays'" class="text-sm text-muted">{{ t('clauseEditor.days') }}</span><span
      v-if="part.test === 'lastMonths'"
      class="text-sm text-muted"
      >{{ t('clauseEditor.months') }}</span
    >
    <UButton
      v-if="deep"
      size="xs"
      variant="ghost"
      color="neutral"
      icon="i-lucide-x"
      :aria-label="t('clauseEditor.takeThisClauseOut')"
      @click="emit('remove')"
    />
  </div>
  <div v-else-if="part.is === 'group'" class="space-y-1.5" :class="deep ? 'rounded-md border border-default p-2' : ''" data-group>
    <div class="flex items-center gap-2 text-sm">
      <USelect
        :model-value="part.joined"
        :items="[
          { label: t('clauseEditor.allOfTheseAnd'), value: 'and' },
          { label: t('clauseEditor.anyOfTheseOr'), value: 'or' },
        ]"
        size="xs"
        class="w-40"
        :aria-label="t('clauseEditor.andOrOr')"
        @update:model-value="
          joined => {
            part = { ...part, joined } as FilterPart
          }
        "
      />
      <label class="flex items-center gap-1.5"
        ><input type="checkbox" :checked="part.not" class="accent-petrol-700" @change="part = { ...part, not: !part.not } as FilterPart" />
        {{ t('clauseEditor.not') }}</label
      >
      <UButton
        v-if="deep"
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :aria-label="t('clauseEditor.takeThisGroupOut')"
        class="ml-auto"
        @click="emit('remove')"
      />
    </div>
    <DataClauseEditor
      v-for="(each, index) in part.parts"
      :key="index"
      :model-value="each"
      :level="level"
      :levels="levels"
      :deep="deep + 1"
      @update:model-value="(next: FilterPart) => setPart(index, next)"
      @remove="setPart(index, undefined)"
    />
    <div class="flex gap-1">
      <UButton size="xs" variant="ghost" icon="i-lucide-plus" @click="part = { ...part, parts: [...part.parts, newClause(level)] }">{{
        t('clauseEditor.clause')
      }}</UButton>
      <UButton
        size="xs"
        variant="ghost"
        icon="i-lucide-plus"
        @click="part = { ...part, parts: [...part.parts, { is: 'group', joined: 'or', not: false, parts: [newClause(level)] }] }"
        >{{ t('clauseEditor.group') }}</UButton
      >
      <UButton
        v-for="child in children"
        :key="child.name"
        size="xs"
        variant="ghost"
        icon="i-lucide-plus"
        @click="part = { ...part, parts: [...part.parts, { is: 'has', level: child.name, not: false, part: newClause(child) }] }"
        >{{ t('clauseEditor.that', { caption: child.caption.toLowerCase() }) }}</UButton
      >
    </div>
  </div>
  <div v-else-if="part.is === 'has'" class="space-y-1.5 rounded-md border border-default p-2" data-has>
    <div class="flex items-center gap-2 text-sm">
      <USelect
        :model-value="part.not ? 'none' : 'some'"
        :items="[
          { label: t('clauseEditor.hasSuchARecordOf'), value: 'some' },
          { label: t('clauseEditor.hasNoSuchRecordOf'), value: 'none' },
        ]"
        size="xs"
        class="w-44"
        :aria-label="t('clauseEditor.hasOrHasNot')"
        @update:model-value="
          has => {
            part = { ...part, not: has === 'none' } as FilterPart
          }
        "
      />
      <span class="font-semibold">{{ below?.caption ?? part.level }}</span>
      <UButton
        v-if="deep"
        size="xs"
        variant="ghost"
        color="neutral"
        icon="i-lucide-x"
        :aria-label="t('clauseEditor.takeThisOut')"
        class="ml-auto"
        @click="emit('remove')"
      />
    </div>
    <DataClauseEditor
      v-if="below && part.part"
      :model-value="part.part"
      :level="below"
      :levels="levels"
      :deep="deep + 1"
      @update:model-value="(next: FilterPart) => (part = { ...part, part: next } as FilterPart)"
      @remove="part = { is: 'has', level: (part as { level: string }).level, not: (part as { not: boolean }).not }"
    />
    <UButton
      v-if="below && (!part.part || part.part.is === 'clause')"
      size="xs"
      variant="ghost"
      icon="i-lucide-plus"
      @click="
        part = {
          ...part,
          part: part.part ? { is: 'group', joined: 'and', not: false, parts: [part.part, newClause(below)] } : newClause(below),
        } as FilterPart
      "
      >{{ t('clauseEditor.whereTheSameRecord') }}</UButton
    >
  </div>
  <div v-else class="flex items-center gap-1.5">
    <UInput
      :model-value="part.text"
      size="sm"
      class="grow font-mono"
      :aria-label="t('common.formula')"
      @update:model-value="text => (part = { is: 'formula', text: String(text) })"
    /><UButton
      v-if="deep"
      size="xs"
      variant="ghost"
      color="neutral"
      icon="i-lucide-x"
      :aria-label="t('clauseEditor.takeThisFormulaOut')"
      @click="emit('remove')"
    />
  </div>
</template>
