<script setup lang="ts">
import { blocksOf } from '../../core/definition/walk'
import { isStatementBlock, type StatementBlock } from '../../core/definition/blocks/statement'
import type { TieFigure } from '../../core/definition/tieOuts'
import { isTable, type TableBlock } from '../../core/definition/blocks/table'
import { columnName } from '../../core/statement/columns'
import { type AccountNature, accountNatures } from '../../core/books/ledger'

/** One of the two figures of a tie-out: what it is taken from. */
const { figure, title, side } = defineProps<{ figure: TieFigure; title: string; side: string }>()
const emit = defineEmits<{ set: [figure: TieFigure] }>()
const report = useReport()
const blocks = computed(() => report.definition!.layouts.flatMap(blocksOf))
const statements = computed(() => blocks.value.filter((each): each is StatementBlock => isStatementBlock(each)))
const tables = computed(() => blocks.value.filter((each): each is TableBlock => isTable(each)))
const statement = computed(() => ('statement' in figure ? statements.value.find(each => each.id === figure.statement) : undefined))
const lines = (of: StatementBlock | undefined) =>
  of?.lines.filter(line => line.kind === 'accounts' || line.kind === 'sum' || line.kind === 'formula') ?? []
const kinds = computed<[TieFigure['is'], string][]>(() => [
  ['formula', t('tieFigureField.aFormulaOverAData')],
  ...(statements.value.length
    ? ([
        ['line', t('tieFigureField.aLineOfAStatement')],
        ['trial', t('tieFigureField.accountsOfSomeTypesFrom')],
      ] as [TieFigure['is'], string][])
    : []),
  ...(tables.value.length
    ? ([
        ['total', t('tieFigureField.aTotalOnTheLayout')],
        ['rows', t('tieFigureField.howManyLinesATable')],
      ] as [TieFigure['is'], string][])
    : []),
])
function turnInto(is: TieFigure['is']): void {
  const [first] = statements.value
  const [table] = tables.value
  const column = first?.columns[0]?.id ?? ''
  if (is === 'line' && first) emit('set', { is, statement: first.id, line: lines(first)[0]?.id ?? '', column })
  else if (is === 'trial' && first) emit('set', { is, statement: first.id, column, types: ['income', 'expense'] })
  else if (is === 'total' && table) emit('set', { is, table: table.id, column: table.columns.at(-1)!.id })
  else if (is === 'rows' && table) emit('set', { is, table: table.id })
  else emit('set', { is: 'formula', dataSet: report.definition!.dataSets[0]!.name, formula: '0' })
}
const columns = computed(
  () =>
    statement.value?.columns.flatMap((column): [string, string][] => {
      const name = columnName(column, tell)
      if (!column.repeat) return [[column.id, name]]
      const { over, count = over === 'period' ? 12 : over === 'quarter' ? 4 : 3 } = column.repeat
      return [
        [column.id, t('tieFigureField.allTogether', { name })],
        ...(over === 'branch' || over === 'department'
          ? []
          : Array.from({ length: count }, (_, index): [string, string] => [
              `${column.id}#${index + 1}`,
              t('tieFigureField.of', { name, what: index + 1, count }),
            ])),
      ]
    }) ?? [],
)
function tick(nature: AccountNature, ticked: boolean): void {
  if (figure.is !== 'trial') return
  const types = accountNatures.filter(each => (each === nature ? ticked : figure.types.includes(each)))
  if (types.length) emit('set', { ...figure, types })
}
</script>

<template>
  <fieldset class="mb-3 space-y-1.5 rounded-md border border-default p-3">
    <legend class="px-1 font-semibold">{{ title }}</legend>
    <PickField
      class="w-full"
      :aria-label="t('tieFigureField.kindOfTheFigure', { side })"
      :value="figure.is"
      @pick="turnInto($event as 'line')"
    >
      <option v-for="[is, words] in kinds" :key="is" :value="is">{{ words }}</option>
    </PickField>
    <template v-if="figure.is === 'formula'">
      <PickField
        class="w-full"
        :aria-label="t('tieFigureField.dataSet')"
        :value="figure.dataSet"
        @pick="emit('set', { ...figure, dataSet: $event })"
      >
        <option v-for="each in report.definition!.dataSets" :key="each.name" :value="each.name">{{ each.name }}</option>
      </PickField>
      <TextField
        mono
        rows="2"
        class="w-full"
        :aria-label="t('tieFigureField.formulaOfTheFigure', { side })"
        :value="figure.formula"
        @write="emit('set', { ...figure, formula: $event.trim() || '0' })"
      />
    </template>
    <template v-else-if="figure.is === 'line' || figure.is === 'trial'">
      <PickField
        v-if="statements.length > 1"
        class="w-full"
        :aria-label="t('tieFigureField.statement')"
        :value="figure.statement"
        @pick="
          emit('set', {
            ...figure,
            statement: $event,
            column: statements.find(each => each.id === $event)!.columns[0]!.id,
            ...(figure.is === 'line' ? { line: lines(statements.find(each => each.id === $event))[0]?.id ?? '' } : {}),
          } as TieFigure)
        "
      >
        <option v-for="each in statements" :key="each.id" :value="each.id">{{ each.id }}</option>
      </PickField>
      <PickField
        v-if="figure.is === 'line'"
        class="w-full"
        :aria-label="t('common.line')"
        :value="figure.line"
        @pick="emit('set', { ...figure, line: $event })"
      >
        <option v-for="each in lines(statement)" :key="each.id" :value="each.id">{{ each.caption || each.id }}</option>
      </PickField>
      <div v-else class="flex flex-wrap gap-x-3 gap-y-1">
        <label v-for="nature in accountNatures" :key="nature" class="flex items-center gap-1.5"
          ><input
            type="checkbox"
            class="accent-petrol-700"
            :checked="figure.types.includes(nature)"
            @change="tick(nature, ($event.target as HTMLInputElement).checked)"
          />{{ tell(nature) }}</label
        >
      </div>
      <PickField
        class="w-full"
        :aria-label="t('tieFigureField.column')"
        :value="figure.column"
        @pick="emit('set', { ...figure, column: $event })"
      >
        <option v-for="[id, words] in columns" :key="id" :value="id">{{ words }}</option>
      </PickField>
    </template>
    <template v-else>
      <PickField
        class="w-full"
        :aria-label="t('common.table')"
        :value="figure.table"
        @pick="
          emit(
            'set',
            figure.is === 'rows'
              ? { is: 'rows', table: $event }
              : { is: 'total', table: $event, column: tables.find(each => each.id === $event)!.columns.at(-1)!.id },
          )
        "
      >
        <option v-for="each in tables" :key="each.id" :value="each.id">{{ each.id }}</option>
      </PickField>
      <PickField
        v-if="figure.is === 'total'"
        class="w-full"
        :aria-label="t('tieFigureField.columnOfTheTable')"
        :value="figure.column"
        @pick="emit('set', { ...figure, column: $event })"
      >
        <option v-for="each in tables.find(block => block.id === figure.table)?.columns" :key="each.id" :value="each.id">
          {{ each.id }}
        </option>
      </PickField>
    </template>
  </fieldset>
</template>
