<script setup lang="ts">
import type { LibraryShelf } from '../../../core/api/answers'
import type { PackAnswer, PackDefinition, PackReport } from '../../../core/pack/definition'
import type { ParameterDefinition } from '../../../core/definition/parameters'
import type { ReportDefinition } from '../../../core/definition/report'

/** The reports of a pack in their order, with what each is asked; and what the pack asks for all of them. */
const { library, definitions, need } = defineProps<{
  library: readonly LibraryShelf[]
  definitions: ReadonlyMap<string, ReportDefinition>
  need: (report: string) => Promise<void>
}>()
const pack = defineModel<PackDefinition>({ required: true })
const choices = computed(() =>
  library.flatMap(shelf =>
    shelf.reports.filter(each => each.published !== null).map(each => ({ value: each.id, label: each.name, suffix: shelf.name })),
  ),
)
const open = ref('')
const parametersOf = (each: PackReport): ParameterDefinition[] =>
  definitions.get(each.report)?.parameters.filter(parameter => !parameter.hidden) ?? []
const layoutsOf = (each: PackReport) => definitions.get(each.report)?.layouts.map(layout => layout.name) ?? []
/** A name for a report within the pack: a word that no other has. */
function idFor(name: string): string {
  const plain =
    name
      .normalize('NFKD')
      .replace(/[^\p{L}\p{N}]+/gu, '_')
      .replace(/^[\d_]+|_+$/g, '')
      .toLowerCase() || 'report'
  let id = plain
  for (let again = 2; pack.value.reports.some(each => each.id === id); again++) id = `${plain}_${again}`
  return id
}
async function add(report: string): Promise<void> {
  const found = choices.value.find(each => each.value === report)
  if (!found) return
  await need(report)
  const own: PackReport = { id: idFor(found.label), report, name: found.label, answers: {} }
  // what the pack asks already by the same name and kind is handed on
  for (const parameter of parametersOf(own)) {
    const same = pack.value.parameters.find(each => each.name === parameter.name && each.kind === parameter.kind)
    if (same) own.answers[parameter.name] = { is: 'parameter', name: same.name }
  }
  pack.value.reports.push(own)
  open.value = own.id
}
function move(at: number, by: number): void {
  const [each] = pack.value.reports.splice(at, 1)
  pack.value.reports.splice(at + by, 0, each!)
}
function remove(at: number): void {
  const [gone] = pack.value.reports.splice(at, 1)
  pack.value.ties = pack.value.ties.filter(tie => tie.left.report !== gone!.id && tie.right.report !== gone!.id)
}
/** What a parameter of a report is answered with, to choose from: its default, what the pack asks, a formula, a text. */
function answerItems(parameter: ParameterDefinition) {
  return [
    { value: 'default', label: t('packReports.itsDefault') },
    ...pack.value.parameters
      .filter(each => each.kind === parameter.kind)
      .map(each => ({ value: `parameter ${each.name}`, label: t('packReports.asAsked', { label: each.label }) })),
    ...(parameter.kind === 'dates' || parameter.kind === 'choices' ? [] : [{ value: 'formula', label: t('packReports.aFormula') }]),
    { value: 'text', label: t('packReports.always') },
    ...(asksForAll(parameter) ? [{ value: 'new', label: t('packReports.askItOnce') }] : []),
  ]
}
/** Can the pack ask it itself? Choices are another report's. */
const asksForAll = ({ kind, name }: ParameterDefinition) =>
  kind !== 'choice' && kind !== 'choices' && !pack.value.parameters.some(each => each.name === name)
const chosen = (answer: PackAnswer | undefined) =>
  !answer ? 'default' : answer.is === 'parameter' ? `parameter ${answer.name}` : answer.is
function choose(each: PackReport, parameter: ParameterDefinition, value: string): void {
  if (value === 'new') {
    const { name, label, kind, required, default: first, defaultTo, help } = parameter
    pack.value.parameters.push({
      name,
      label,
      kind,
      required,
      ...(first === undefined ? {} : { default: first }),
      ...(defaultTo === undefined ? {} : { defaultTo }),
      ...(help === undefined ? {} : { help }),
    })
    for (const other of pack.value.reports)
      if (parametersOf(other).some(own => own.name === name && own.kind === kind) && !other.answers[name])
        other.answers[name] = { is: 'parameter', name }
    each.answers[name] = { is: 'parameter', name }
  } else if (value === 'default')
    each.answers = Object.fromEntries(Object.entries(each.answers).filter(([name]) => name !== parameter.name))
  else if (value === 'formula') each.answers[parameter.name] = { is: 'formula', formula: '' }
  else if (value === 'text') each.answers[parameter.name] = { is: 'text', text: '' }
  else each.answers[parameter.name] = { is: 'parameter', name: value.slice('parameter '.length) }
}
/** What a report is asked, in short. */
function summary(each: PackReport): string {
  const said = parametersOf(each).flatMap(parameter => {
    const answer = each.answers[parameter.name]
    if (!answer) return []
    const words =
      answer.is === 'parameter'
        ? (pack.value.parameters.find(own => own.name === answer.name)?.label ?? answer.name)
        : answer.is === 'formula'
          ? answer.formula
          : answer.text || t('packReports.nothing')
    return [words === parameter.label ? words : `${parameter.label}: ${words}`]
  })
  if (each.each) said.push(t('packReports.onceForEach', { parameter: labelOf(each, each.each.parameter) }))
  return said.join(' · ')
}
const labelOf = (each: PackReport, name: string) => parametersOf(each).find(own => own.name === name)?.label ?? name
const repeatItems = (each: PackReport) => [
  { value: 'once', label: t('packReports.once') },
  ...parametersOf(each)
    .filter(parameter => parameter.kind === 'choice' || parameter.kind === 'choices')
    .map(parameter => ({ value: parameter.name, label: t('packReports.onceForEach', { parameter: parameter.label }) })),
]
const repeat = (each: PackReport, value: string) => (value === 'once' ? delete each.each : (each.each = { parameter: value }))
const picked = ref<string>()
watch(picked, value => {
  if (!value) return
  void add(value)
  picked.value = undefined
})
</script>

<template>
  <section :aria-label="t('packReports.reports')">
    <h2 class="mb-2 font-semibold">{{ t('packReports.reports') }}</h2>
    <ol v-if="pack.reports.length" class="divide-y divide-default rounded-md border border-default bg-default" data-pack-reports>
      <li v-for="(each, at) in pack.reports" :key="each.id" class="px-3 py-2" :data-report="each.name">
        <div class="flex items-center gap-2">
          <span class="w-5 text-right tabular-nums text-muted">{{ at + 1 }}</span>
          <button
            class="flex min-w-0 grow items-baseline gap-2 text-left"
            :aria-expanded="open === each.id"
            @click="open = open === each.id ? '' : each.id"
          >
            <span class="shrink-0 font-semibold">{{ each.name }}</span>
            <span class="truncate text-muted">{{ [each.layout, summary(each)].filter(Boolean).join(' · ') }}</span>
          </button>
          <UButton
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-arrow-up"
            :disabled="!at"
            :aria-label="t('packReports.moveUp', { name: each.name })"
            @click="move(at, -1)"
          />
          <UButton
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-arrow-down"
            :disabled="at === pack.reports.length - 1"
            :aria-label="t('packReports.moveDown', { name: each.name })"
            @click="move(at, 1)"
          />
          <UButton
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            :aria-label="t('packReports.takeOut', { name: each.name })"
            @click="remove(at)"
          />
        </div>
        <div v-if="open === each.id" class="ml-7 mt-2 space-y-1.5 border-l border-default pl-4">
          <div v-for="parameter in parametersOf(each)" :key="parameter.name" class="flex items-center gap-2">
            <span class="w-44 shrink-0 truncate" :title="parameter.label">{{ parameter.label }}</span>
            <USelect
              :model-value="chosen(each.answers[parameter.name])"
              :items="answerItems(parameter)"
              size="sm"
              class="w-52"
              :aria-label="parameter.label"
              @update:model-value="(value: string) => choose(each, parameter, value)"
            />
            <UInput
              v-if="each.answers[parameter.name]?.is === 'formula'"
              :model-value="(each.answers[parameter.name] as { formula: string }).formula"
              size="sm"
              class="grow font-mono"
              :aria-label="t('packReports.formulaFor', { label: parameter.label })"
              @update:model-value="value => (each.answers[parameter.name] = { is: 'formula', formula: String(value) })"
            />
            <UInput
              v-else-if="each.answers[parameter.name]?.is === 'text'"
              :model-value="(each.answers[parameter.name] as { text: string }).text"
              size="sm"
              class="grow"
              :aria-label="t('packReports.textFor', { label: parameter.label })"
              @update:model-value="value => (each.answers[parameter.name] = { is: 'text', text: String(value) })"
            />
          </div>
          <p v-if="!parametersOf(each).length" class="text-muted">{{ t('packReports.asksNothing') }}</p>
          <div v-if="layoutsOf(each).length > 1" class="flex items-center gap-2">
            <span class="w-44 shrink-0">{{ t('packReports.layout') }}</span>
            <USelect
              :model-value="each.layout ?? layoutsOf(each)[0]!"
              :items="layoutsOf(each)"
              size="sm"
              class="w-52"
              :aria-label="t('packReports.layout')"
              @update:model-value="(value: string) => (each.layout = value)"
            />
          </div>
          <div v-if="repeatItems(each).length > 1" class="flex items-center gap-2">
            <span class="w-44 shrink-0">{{ t('packReports.run') }}</span>
            <USelect
              :model-value="each.each?.parameter ?? 'once'"
              :items="repeatItems(each)"
              size="sm"
              class="w-52"
              :aria-label="t('packReports.run')"
              @update:model-value="(value: string) => repeat(each, value)"
            />
          </div>
        </div>
      </li>
    </ol>
    <USelectMenu
      v-model="picked"
      :items="choices"
      value-key="value"
      size="sm"
      class="mt-2 w-72"
      icon="i-lucide-plus"
      :placeholder="t('packReports.addAReport')"
      :aria-label="t('packReports.addAReport')"
    />
    <template v-if="pack.parameters.length">
      <h2 class="mb-2 mt-6 font-semibold">{{ t('packReports.askedOnce') }}</h2>
      <ul class="divide-y divide-default rounded-md border border-default bg-default">
        <li v-for="(parameter, at) in pack.parameters" :key="parameter.name" class="flex items-center gap-3 px-3 py-1.5">
          <UInput v-model="parameter.label" size="sm" class="w-52" :aria-label="t('packReports.labelOf', { name: parameter.name })" />
          <span class="font-mono text-xs text-muted">{{ `param.${parameter.name}` }}</span>
          <span class="ml-auto text-muted">{{ t('packReports.byItself') }}</span>
          <UInput
            v-model="parameter.default"
            size="sm"
            class="w-72 font-mono"
            :aria-label="t('packReports.defaultOf', { label: parameter.label })"
          />
          <UButton
            size="xs"
            variant="ghost"
            color="neutral"
            icon="i-lucide-x"
            :aria-label="t('packReports.doNotAsk', { label: parameter.label })"
            @click="pack.parameters.splice(at, 1)"
          />
        </li>
      </ul>
    </template>
  </section>
</template>
