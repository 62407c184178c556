import { columnOfCell, lineOfRow } from '../../core/definition/edits/statement'
import { isCrosstab, type CrosstabBlock } from '../../core/definition/blocks/crosstab'
import { isChart, type ChartBlock } from '../../core/definition/blocks/chart'
import { isStatementBlock, type StatementBlock, type StatementColumn, type StatementLine } from '../../core/definition/blocks/statement'
import { findBlock, rowAt, setText, textAt, type TextPlace } from '../../core/definition/edits/edits'
import type { Block } from '../../core/definition/blocks/block'
import { isTable, type ColumnDefinition, type RowDefinition, type TableBlock } from '../../core/definition/blocks/table'
import { isPanel, type PanelItem } from '../../core/definition/blocks/panel'
import type { TextStyle } from '../../core/definition/style'
import type { Box } from '../../core/compose/page'
import type { Scope } from '../../core/formula/typed'

/** Words for the kinds of rows, as the trade says them. */
export function partWords(part: Box['part']): string {
  const words: Record<Box['part'], () => string> = {
    block: () => '',
    item: () => t('common.text'),
    titles: () => t('sheetSelection.titles'),
    groupStart: () => t('sheetSelection.groupStart'),
    line: () => t('common.line2'),
    extra: () => t('sheetSelection.extraRow'),
    groupEnd: () => t('sheetSelection.groupEnd'),
    end: () => t('sheetSelection.tableEnd'),
    forward: () => t('sheetSelection.carriedForward'),
    brought: () => t('sheetSelection.broughtForward'),
  }
  return words[part]()
}

/** What is selected on the sheet, found in the definition. */
export function useSheetSelection() {
  const report = useReport()
  const sheet = useSheet()
  const definition = computed(() => report.definition!)
  const selection = computed(() => sheet.selection)
  const block = computed<Block | undefined>(() => selection.value && findBlock(definition.value, selection.value.block))
  const table = computed<TableBlock | undefined>(() => (isTable(block.value) ? block.value : undefined))
  const statement = computed<StatementBlock | undefined>(() => (isStatementBlock(block.value) ? block.value : undefined))
  const chart = computed<ChartBlock | undefined>(() => (isChart(block.value) ? block.value : undefined))
  const crosstab = computed<CrosstabBlock | undefined>(() => (isCrosstab(block.value) ? block.value : undefined))
  const line = computed<StatementLine | undefined>(() =>
    statement.value && selection.value!.part !== 'block' && selection.value!.part !== 'titles'
      ? lineOfRow(statement.value, selection.value!.rowId)
      : undefined,
  )
  const figure = computed<StatementColumn | undefined>(() => statement.value && columnOfCell(statement.value, selection.value!.cell))
  const row = computed<RowDefinition | undefined>(() =>
    table.value && selection.value!.part !== 'block'
      ? rowAt(table.value, { part: selection.value!.part, row: selection.value!.rowId })
      : undefined,
  )
  const column = computed<ColumnDefinition | undefined>(() => table.value?.columns.find(each => each.id === selection.value!.cell))
  const item = computed<PanelItem | undefined>(() =>
    isPanel(block.value) ? block.value.items.find(each => each.id === selection.value!.cell) : undefined,
  )
  const place = computed<TextPlace | undefined>(() => {
    const at = selection.value
    return at?.cell && at.part !== 'block'
      ? { block: at.block, cell: at.cell, part: at.part, ...(at.rowId ? { row: at.rowId } : {}) }
      : undefined
  })
  const text = computed(() => place.value && textAt(definition.value, place.value))
  const scope = computed<Scope | undefined>(() =>
    selection.value && report.tree && block.value
      ? scopeOfBlock(definition.value, report.tree.levels, selection.value.block, row.value?.id)
      : undefined,
  )
  /** the style set at this place: of the cell or text itself, or of its column */
  const style = computed<TextStyle>(() => {
    if (item.value?.kind === 'text') return item.value.style ?? {}
    return { ...column.value?.style, ...(row.value && column.value ? row.value.cells[column.value.id]?.style : {}) }
  })
  const write = (source: string) => place.value && report.edit(t('common.text2'), current => setText(current, place.value!, source))
  return {
    report,
    sheet,
    definition,
    selection,
    block,
    table,
    statement,
    chart,
    crosstab,
    line,
    figure,
    row,
    column,
    item,
    place,
    text,
    scope,
    style,
    write,
  }
}
