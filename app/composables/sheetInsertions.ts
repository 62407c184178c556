import { bodyWidth } from '../../core/compose/paperSize'
import { addLine, addStatementColumn } from '../../core/definition/edits/statement'
import { signaturePanel, addBooks } from '../../core/definition/edits/books'
import { drawnLines, proposeChart } from '../../core/definition/edits/chart'
import { isStatementBlock, type StatementBlock, type StatementLineKind } from '../../core/definition/blocks/statement'
import { newBreak, newColumn, newItems, newLines, newPanel, newRepeat, newTable, newTies } from '../../core/templates/blocks'
import { chartOfBlock, chartOfLevel } from '../../core/templates/chart'
import { proposePayee } from '../../core/templates/payments'
import { newCrosstab } from '../../core/templates/crosstab'
import { readyNames, type ReadyStatement, readyStatement, readyStatements } from '../../core/templates/statements'
import { addAgeColumns } from '../../core/definition/edits/ageing'
import { findBlock, repeatsAround } from '../../core/definition/walk'
import { addItem, blocksOf, freeId, insertBlock, nestReport, nestTable, type NewItem } from '../../core/definition/edits/edits'
import { isRepeat, type Block } from '../../core/definition/blocks/block'
import { type CrosstabBlock, isCrosstab } from '../../core/definition/blocks/crosstab'
import { isTable, type TableBlock } from '../../core/definition/blocks/table'
import { isPanel, type PanelBlock } from '../../core/definition/blocks/panel'
import type { NestedBlock } from '../../core/definition/blocks/nested'
import type { Command } from '../stores/commands'

/** All that can be put on the sheet: blocks, items of a panel, lines and columns of a statement. */
export function useSheetInsertions() {
  const { report, sheet, definition, selection, block, table, statement, line, figure, scope } = useSheetSelection()
  const levels = computed(() => report.tree?.levels ?? [])
  const taken = () => definition.value.layouts.flatMap(layout => blocksOf(layout).map(each => each.id))

  /** Puts a block after the selected one, inside a selected repeat, or at the end. */
  function add(label: string, fresh: Block, beside?: string): void {
    const at = beside ?? selection.value?.block
    const chosen = blocksOf(report.layout!).find(each => each.id === at)
    const edge =
      chosen && [report.layout!.top, report.layout!.foot, report.layout!.firstTop, report.layout!.firstFoot].includes(chosen as PanelBlock)
    const before = new Set(taken())
    report.edit(label, now =>
      insertBlock(
        now,
        fresh,
        !chosen || edge ? inLayout() : isRepeat(chosen) && !beside ? { within: chosen.id } : { beside: chosen.id, side: 'after' },
      ),
    )
    const made = taken().find(id => !before.has(id))
    if (made) sheet.selection = { block: made, part: 'block', page: selection.value?.page ?? 0, row: -1 }
  }
  /** Where nothing is selected: into the document that the page repeats, or at the layout's end. */
  const inLayout = (): { within: string } | { layout: string } => {
    const [only, more] = report.layout!.blocks
    return isRepeat(only) && !more ? { within: only.id } : { layout: report.layout!.name }
  }
  const inPanel = computed(() => (isPanel(block.value) ? block.value : undefined))
  function put(label: string, fresh: NewItem): void {
    if (!inPanel.value) return
    const lowest = Math.max(0, ...inPanel.value.items.map(each => each.y + 14))
    const place = sheet.pages.get(selection.value!.page)?.boxes.find(box => box.block === inPanel.value!.id && !box.cell)
    const before = new Set(inPanel.value.items.map(each => each.id))
    report.edit(label, now =>
      addItem(now, inPanel.value!.id, { ...fresh, y: place ? Math.min(lowest, Math.max(0, place.height - 10)) : lowest }),
    )
    const made = inPanel.value.items.find(each => !before.has(each.id))
    if (made)
      sheet.selection = { block: inPanel.value.id, part: 'item', cell: made.id, page: selection.value!.page, row: selection.value!.row }
  }
  /** A payment QR of the record in which the panel stands, as far as names tell it. */
  function newPayment(): NewItem {
    const { payment } = newItems
    const level = scope.value && scope.value.levels[scope.value.level]
    return level ? { ...payment, terms: proposePayee(level) } : payment
  }
  const nestable = computed(() =>
    table.value ? levels.value.filter(level => level.parent === levels.value.findIndex(each => each.name === table.value!.level)) : [],
  )
  const agesHere = computed(() =>
    table.value ? (levels.value.find(level => level.name === table.value!.level)?.definition.ageings ?? []) : [],
  )
  /** a statement that stands on the books, where the report reads them */
  const books = computed(() =>
    report.catalog?.ledger && report.model?.tables.get(levels.value[0]?.definition.table ?? '')?.kind === 'ledger'
      ? report.catalog.ledger
      : undefined,
  )
  /** statements that can be drawn: the selected one, or all of the layout */
  const charted = computed(() =>
    statement.value ? [statement.value] : blocksOf(report.layout!).filter((each): each is StatementBlock => isStatementBlock(each)),
  )
  /** crosstabs and tables that can be drawn: the selected one, or all of the layout */
  const drawable = computed(() => {
    const found = blocksOf(report.layout!).filter((each): each is CrosstabBlock | TableBlock => isCrosstab(each) || isTable(each))
    return found.some(each => each.id === block.value?.id) ? found.filter(each => each.id === block.value!.id) : found
  })
  const lineKinds: [StatementLineKind, string, string][] = [
    ['accounts', t('sheetInsertions.lineOfAccounts'), 'i-lucide-book-open'],
    ['formula', t('sheetInsertions.lineWithAFormula'), 'i-lucide-sigma'],
    ['sum', t('sheetInsertions.sumOfTheLinesAbove'), 'i-lucide-plus'],
    ['heading', t('sheetInsertions.heading'), 'i-lucide-heading'],
    ['blank', t('sheetInsertions.blankLine'), 'i-lucide-minus'],
    ['rule', t('sheetInsertions.rule'), 'i-lucide-separator-horizontal'],
    ['break', t('sheetInsertions.pageBreak'), 'i-lucide-file-plus-2'],
  ]
  function addStatement(kind: ReadyStatement): void {
    const period = definition.value.parameters.find(each => each.kind === 'period')?.name
    report.edit(tell(readyNames[kind]), now => (period ? now : addBooks(now).report))
    const anchor = `param.${definition.value.parameters.find(each => each.kind === 'period')!.name}`
    add(tell(readyNames[kind]), {
      kind: 'statement',
      id: freeId(kind, taken(), true),
      level: levels.value[0]!.name,
      left: 0,
      width: 0,
      after: 10,
      repeatTitles: true,
      ...readyStatement(kind, books.value!, anchor),
    })
  }
  /** a report of the library is being chosen, to be nested at a level */
  const nesting = ref<'block' | 'row'>()
  const nestings = computed(() => [
    { where: 'block' as const, group: t('sheetInsertions.blocks'), label: t('sheetInsertions.nestedReport') },
    ...(table.value
      ? [{ where: 'row' as const, group: t('sheetInsertions.underEachRow'), label: t('sheetInsertions.nestedReportUnderEachRow') }]
      : []),
  ])
  const nestingLevel = computed(() => {
    if (nesting.value === 'row') return levelOfBlock(definition.value, levels.value, table.value!.id)
    const into = inLayout()
    const at = block.value ? selection.value!.block : 'within' in into ? into.within : undefined
    if (at === undefined) return 0
    const around = isRepeat(findBlock(definition.value, at)) ? findBlock(definition.value, at) : repeatsAround(definition.value, at).at(-1)
    return Math.max(
      0,
      levels.value.findIndex(level => isRepeat(around) && level.name === around.level),
    )
  })
  const insertions = computed<Command[]>(() => [
    ...(statement.value
      ? lineKinds.map(([kind, label, icon]): Command => ({
          id: `line ${kind}`,
          group: line.value ? t('sheetInsertions.underThisLine') : t('sheetInsertions.linesOfThisStatement'),
          label,
          icon,
          run: () => {
            const own = statement.value!
            report.edit(t('sheetInsertions.addLine'), now =>
              addLine(now, own.id, { ...newLines[kind], kind }, line.value?.id ?? own.lines.at(-1)?.id),
            )
          },
        }))
      : []),
    ...(statement.value
      ? (
          [
            ['activity', t('sheetInsertions.actual')],
            ['balance', t('sheetInsertions.balance')],
            ['budget', t('sheetInsertions.budget')],
            ['difference', t('common.difference')],
            ['percent', t('sheetInsertions.perCentOfDifference')],
            ['total', t('sheetInsertions.totalOfColumns')],
            ['share', t('sheetInsertions.perCentOfALine')],
          ] as const
        ).map(([kind, label]): Command => ({
          id: `column ${kind}`,
          group: t('sheetInsertions.columnsOfThisStatement'),
          label,
          icon: 'i-lucide-columns-3',
          run: () => {
            const own = statement.value!
            const period = `param.${definition.value.parameters.find(each => each.kind === 'period')?.name ?? 'period'}`
            report.edit(t('sheetInsertions.addColumn'), now =>
              addStatementColumn(now, own.id, newColumn(own, kind, period), figure.value?.id),
            )
          },
        }))
      : []),
    ...charted.value.map((each): Command => ({
      id: `chart ${each.id}`,
      group: t('sheetInsertions.blocks'),
      label:
        line.value && statement.value?.id === each.id && drawnLines(each).includes(line.value)
          ? t('sheetInsertions.chartOfThisLine')
          : charted.value.length > 1
            ? t('sheetInsertions.chartOf', { id: each.id })
            : t('sheetInsertions.chartOfTheStatement'),
      icon: 'i-lucide-chart-column',
      run: () =>
        add(
          t('sheetInsertions.addChart'),
          proposeChart(freeId('chart', taken(), true), each, statement.value?.id === each.id ? line.value?.id : undefined),
        ),
    })),
    ...(books.value
      ? readyStatements.map((kind): Command => ({
          id: `statement ${kind}`,
          group: t('sheetInsertions.statements'),
          label: tell(readyNames[kind]),
          icon: 'i-lucide-scale',
          run: () => addStatement(kind),
        }))
      : []),
    ...(inPanel.value
      ? (
          [
            ['text', t('common.text2'), 'i-lucide-type'],
            ['picture', t('sheetInsertions.picture'), 'i-lucide-image'],
            ['line', t('common.line'), 'i-lucide-minus'],
            ['box', t('sheetInsertions.box'), 'i-lucide-square'],
            ['qr', t('sheetInsertions.qrCode'), 'i-lucide-qr-code'],
            ['payment', t('sheetInsertions.paymentQr'), 'i-lucide-banknote'],
            ['bars', t('sheetInsertions.barcode'), 'i-lucide-barcode'],
          ] as const
        ).map(([id, label, icon]) => ({
          id,
          group: t('sheetInsertions.intoThisPanel'),
          label,
          icon,
          run: () => put(t('sheetInsertions.addItem', { item: label }), id === 'payment' ? newPayment() : newItems[id]),
        }))
      : []),
    ...agesHere.value.map(ageing => ({
      id: `ages ${ageing.name}`,
      group: t('common.columns'),
      label: t('sheetInsertions.columnsOfAges', { name: ageing.name }),
      icon: 'i-lucide-calendar-range',
      run: () =>
        report.edit(t('sheetInsertions.columnsOfAges2'), now => addAgeColumns(now, table.value!.id, ageing, selection.value?.cell)),
    })),
    ...nestable.value.map(level => ({
      id: `nest ${level.name}`,
      group: t('sheetInsertions.underEachRow'),
      label: t('sheetInsertions.underEachRow2', { caption: level.caption }),
      icon: 'i-lucide-list-tree',
      run: () =>
        report.edit(t('sheetInsertions.detailsUnderEachRow'), now =>
          nestTable(now, table.value!.id, { ...newTable(report.model!.catalog, level, taken()), left: 18 }),
        ),
    })),
    ...(charted.value.length
      ? [
          {
            id: 'signatures',
            group: t('sheetInsertions.blocks'),
            label: t('sheetInsertions.preparedByLines'),
            icon: 'i-lucide-signature',
            run: () =>
              add(
                t('sheetInsertions.preparedByLines'),
                signaturePanel(freeId('signatures', taken(), true), bodyWidth(report.layout!.page)),
              ),
          },
        ]
      : []),
    {
      id: 'panel',
      group: t('sheetInsertions.blocks'),
      label: t('sheetInsertions.panel'),
      icon: 'i-lucide-layout-template',
      run: () => add(t('sheetInsertions.addPanel'), newPanel(taken())),
    },
    ...levels.value.map(level => ({
      id: `table ${level.name}`,
      group: t('sheetInsertions.blocks'),
      label: t('sheetInsertions.tableOf', { manyOf: manyOf(level.caption) }),
      icon: 'i-lucide-table',
      run: () => add(t('sheetInsertions.addTable'), newTable(report.model!.catalog, level, taken())),
    })),
    ...levels.value.map(level => ({
      id: `crosstab ${level.name}`,
      group: t('sheetInsertions.blocks'),
      label: t('sheetInsertions.crosstabOf', { manyOf: manyOf(level.caption) }),
      icon: 'i-lucide-grid-3x3',
      run: () => add(t('sheetInsertions.addCrosstab'), newCrosstab(levels.value, level.index, taken())),
    })),
    ...drawable.value.map((each): Command => ({
      id: `chart of ${each.id}`,
      group: t('sheetInsertions.blocks'),
      label:
        block.value?.id === each.id
          ? t('sheetInsertions.chartOfThis', { kind: tell(each.kind) })
          : t('sheetInsertions.chartOf', { id: each.id }),
      icon: 'i-lucide-chart-column',
      run: () => add(t('sheetInsertions.addChart'), chartOfBlock(each, taken())),
    })),
    ...levels.value.map((level): Command => ({
      id: `chart level ${level.name}`,
      group: t('sheetInsertions.blocks'),
      label: t('sheetInsertions.chartOf2', { manyOf: manyOf(level.caption) }),
      icon: 'i-lucide-chart-line',
      run: () => add(t('sheetInsertions.addChart'), chartOfLevel(levels.value, level.index, taken())),
    })),
    ...levels.value.map(level => ({
      id: `repeat ${level.name}`,
      group: t('sheetInsertions.blocks'),
      label: t('sheetInsertions.repeatForEach', { oneOf: oneOf(level.caption) }),
      icon: 'i-lucide-repeat',
      run: () => add(t('sheetInsertions.addRepeat'), newRepeat(level, taken())),
    })),
    ...nestings.value.map(({ where, group, label }): Command => ({
      id: `nested ${where}`,
      group,
      label,
      icon: 'i-lucide-panels-top-left',
      run: () => {
        nesting.value = where
      },
    })),
    ...(definition.value.tieOuts?.length
      ? [
          {
            id: 'ties',
            group: t('sheetInsertions.blocks'),
            label: t('sheetInsertions.tieOutsOfTheRun'),
            icon: 'i-lucide-scale',
            run: () => add(t('common.tieOutsOnThePage'), newTies(taken())),
          },
        ]
      : []),
    {
      id: 'break',
      group: t('sheetInsertions.blocks'),
      label: t('sheetInsertions.pageBreak'),
      icon: 'i-lucide-separator-horizontal',
      run: () => add(t('sheetInsertions.addPageBreak'), newBreak(taken())),
    },
  ])
  function nest(fresh: NestedBlock): void {
    if (nesting.value === 'row')
      report.edit(t('sheetInsertions.nestAReport'), now => nestReport(now, table.value!.id, { ...fresh, left: 18 }))
    else add(t('sheetInsertions.nestAReport'), fresh)
  }
  return { insertions, add, nesting, nestingLevel, nest, taken }
}
