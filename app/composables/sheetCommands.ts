import { bodyWidth } from '../../core/compose/paperSize'
import { addBooks, addLine, addStatementColumn, signaturePanel } from '../../core/definition/edits/statement'
import { drawnLines, proposeChart } from '../../core/definition/edits/chart'
import { isStatementBlock, type StatementBlock, type StatementLine, type StatementLineKind } from '../../core/definition/blocks/statement'
import { holdsFigures } from '../../core/statement/columns'
import { readyNames, type ReadyStatement, readyStatement, readyStatements } from '../../core/templates/statements'
import { type DraftKind, draftLayout } from '../../core/templates/tables'
import { findTable } from '../../core/catalog/types'
import { listOfTable } from '../../core/templates/draft'
import { addAgeColumns } from '../../core/definition/edits/ageing'
import { columnTotals, columnValue, groupFields } from '../../core/compose/totals'
import {
  addGroup,
  addItem,
  addTotalAcross,
  blocksOf,
  copyLayout,
  duplicateBlock,
  freeId,
  insertBlock,
  moveItems,
  nestTable,
  type NewItem,
  putLayout,
  removeLayout,
  renameLayout,
  setDefaultLayout,
  setLayout,
  setStyle,
  shiftBlock,
  wrapInRepeat,
} from '../../core/definition/edits/edits'
import { isRepeat, type Block } from '../../core/definition/blocks/block'
import { isTable, type TableBlock } from '../../core/definition/blocks/table'
import { isPanel, type PanelBlock } from '../../core/definition/blocks/panel'
import type { TextStyle } from '../../core/definition/style'
import { type PlainColumn, plainTable } from '../../core/definition/upgrade'
import { themes } from '../../core/compose/themes'
import { tickedFields } from '../../core/model/levels'
import type { LevelInfo } from '../../core/formula/typed'
import { pathText } from '../../core/formula/syntax'
import type { Command } from '../stores/commands'

const clipboard = 'estante copied block'
let copiedLook: TextStyle | undefined

/** All that can be done on the sheet, for the menus, the keyboard and Ctrl K. */
export function useSheetCommands(view: {
  zoom: Ref<number>
  fit: () => void
  side: Ref<boolean>
  find: () => void
  show: (page: number) => void
  trace: () => void
}) {
  const { report, sheet, definition, selection, block, table, statement, line, figure, item, style } = useSheetSelection()
  const toast = useToast()
  const levels = computed(() => report.tree?.levels ?? [])
  const taken = () => definition.value.layouts.flatMap(layout => blocksOf(layout).map(each => each.id))

  /** A table of a level with its ticked fields. */
  function tableOf(level: LevelInfo, stem = level.name): TableBlock {
    const fields = tickedFields(level.definition)
      .flatMap(path => level.fields.get(path) ?? [])
      .filter(field => field.role !== 'key')
      .slice(0, 6)
    const shown = fields.length ? fields : [...level.fields.values()].filter(field => field.role !== 'key').slice(0, 5)
    const ids: string[] = []
    const columns = shown.map((field, index): PlainColumn => {
      const id = freeId(field.path.replace(/[^\p{L}\p{N}_]+/gu, '_'), ids, true)
      ids.push(id)
      return {
        id,
        title: fieldTitle(field),
        text: `{{ ${pathText(field.path)} }}`,
        width: field.type === 'text' && !shown.slice(0, index).some(each => each.type === 'text') ? 0 : 66,
        ...(field.type === 'number' ? { style: { align: 'right' } } : {}),
      }
    })
    return plainTable(freeId(stem, taken(), true), level.name, columns, { after: 10 })
  }
  const panel = (): PanelBlock => ({
    kind: 'panel',
    id: freeId('panel', taken(), true),
    height: 24,
    after: 10,
    items: [{ kind: 'text', id: 'text1', x: 0, y: 0, width: 240, text: 'Text' }],
  })

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
  function group(formula: string, date: boolean): void {
    const own = grouped.value!
    const scope = { ...scopeOfBlock(definition.value, levels.value, own.id), row: 'line' as const }
    report.edit('Add group', now =>
      addGroup(
        now,
        own.id,
        {
          by: formula,
          ...(date ? { step: 'month' as const } : {}),
          order: { by: date ? 'value' : 'name', descending: false },
          repeatStart: true,
        },
        columnTotals(own, scope),
      ),
    )
  }
  function draft(kind: DraftKind): void {
    const name = { document: 'Document', grouped: 'Grouped list', list: 'List' }[kind]
    const made = draftLayout(definition.value, levels.value, kind, report.name, name)
    // the page that a new report starts with is replaced; one that somebody has worked on stays beside the draft
    const { source, root } = definition.value.dataSets[0]!
    const first = findTable(report.catalog!, root.table)
      ? listOfTable(report.catalog!, root.table, source, report.name).layouts[0]!
      : undefined
    const fresh = sameContent(report.layout!.blocks, first?.blocks)
    report.edit('Draft', now => putLayout(now, made, fresh ? report.layout!.name : undefined))
    if (!fresh) {
      toast.add({
        title: `The draft stands beside “${report.layout!.name}” as a layout of its own; the menu of layouts can make it the default.`,
        icon: 'i-lucide-files',
      })
      report.layoutName = definition.value.layouts.at(-1)!.name
    }
    sheet.selection = undefined
  }
  function copyBlock(): void {
    if (!block.value) return
    localStorage.setItem(clipboard, JSON.stringify(block.value))
    toast.add({ title: `“${block.value.id}” is copied; Ctrl V puts it into this or another report.`, icon: 'i-lucide-copy' })
  }
  function pasteBlock(): void {
    const kept = localStorage.getItem(clipboard)
    if (kept) add('Paste block', JSON.parse(kept) as Block)
  }
  function nudge(dx: number, dy: number): void {
    if (item.value)
      report.edit(
        'Nudge',
        now => moveItems(now, block.value!.id, [item.value!.id, ...(selection.value!.more ?? [])], dx, dy),
        `nudge ${block.value!.id} ${item.value.id}`,
      )
  }
  async function seek(what: Parameters<typeof sheet.seek>[0], words: string): Promise<void> {
    const page = await sheet.seek(what, 'row' in what ? (selection.value?.page ?? -1) : -1)
    if (page < 0) toast.add({ title: `There is no ${words} on these pages.`, icon: 'i-lucide-search-x' })
    else view.show(page)
  }
  const nestable = computed(() =>
    table.value ? levels.value.filter(level => level.parent === levels.value.findIndex(each => each.name === table.value!.level)) : [],
  )
  /** the table that a group goes into: the selected one, or the only one there is */
  const grouped = computed(() => table.value ?? (tables.value.length === 1 ? (tables.value[0] as TableBlock) : undefined))
  const tables = computed(() => blocksOf(report.layout!).filter(each => isTable(each)))

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
  const lineKinds: [StatementLineKind, string, string, Partial<StatementLine>][] = [
    ['accounts', 'Line of accounts', 'i-lucide-book-open', { caption: 'New line', accounts: 'type expense', indent: 1 }],
    ['formula', 'Line with a formula', 'i-lucide-sigma', { caption: 'New formula', formula: '0', style: { bold: true } }],
    ['sum', 'Sum of the lines above', 'i-lucide-plus', { caption: 'Total', style: { bold: true, above: 'thin' } }],
    ['heading', 'Heading', 'i-lucide-heading', { caption: 'Heading' }],
    ['blank', 'Blank line', 'i-lucide-minus', {}],
    ['rule', 'Rule', 'i-lucide-separator-horizontal', {}],
    ['break', 'Page break', 'i-lucide-file-plus-2', {}],
  ]
  function addStatement(kind: ReadyStatement): void {
    const period = definition.value.parameters.find(each => each.kind === 'period')?.name
    report.edit(readyNames[kind], now => (period ? now : addBooks(now).report))
    const anchor = `param.${definition.value.parameters.find(each => each.kind === 'period')!.name}`
    add(readyNames[kind], {
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
  const insertions = computed<Command[]>(() => [
    ...(statement.value
      ? lineKinds.map(([kind, label, icon, more]): Command => ({
          id: `line ${kind}`,
          group: line.value ? 'Under this line' : 'Lines of this statement',
          label,
          icon,
          run: () => {
            const own = statement.value!
            report.edit('Add line', now => addLine(now, own.id, { ...more, kind }, line.value?.id ?? own.lines.at(-1)?.id))
          },
        }))
      : []),
    ...(statement.value
      ? (
          [
            ['activity', 'Actual'],
            ['balance', 'Balance'],
            ['budget', 'Budget'],
            ['difference', 'Difference'],
            ['percent', 'Per cent of difference'],
            ['total', 'Total of columns'],
            ['share', 'Per cent of a line'],
          ] as const
        ).map(([kind, label]): Command => ({
          id: `column ${kind}`,
          group: 'Columns of this statement',
          label,
          icon: 'i-lucide-columns-3',
          run: () => {
            const own = statement.value!
            const measured = own.columns.filter(each => each.span)
            const anchor =
              measured[0]?.span?.anchor ?? `param.${definition.value.parameters.find(each => each.kind === 'period')?.name ?? 'period'}`
            const last = measured.slice(-2).map(each => each.id)
            report.edit('Add column', now =>
              addStatementColumn(
                now,
                own.id,
                {
                  kind,
                  width: 0,
                  ...(holdsFigures({ id: '', kind, width: 0 })
                    ? { span: { unit: 'period', anchor } }
                    : {
                        of: kind === 'share' ? last.slice(-1) : kind === 'total' ? measured.map(each => each.id) : last,
                        ...(kind === 'share'
                          ? { line: own.lines.find(each => each.kind === 'sum' || each.kind === 'accounts')?.id ?? '' }
                          : {}),
                      }),
                },
                figure.value?.id,
              ),
            )
          },
        }))
      : []),
    ...charted.value.map((each): Command => ({
      id: `chart ${each.id}`,
      group: 'Blocks',
      label:
        line.value && statement.value?.id === each.id && drawnLines(each).includes(line.value)
          ? 'Chart of this line'
          : charted.value.length > 1
            ? `Chart of “${each.id}”`
            : 'Chart of the statement',
      icon: 'i-lucide-chart-column',
      run: () =>
        add('Add chart', proposeChart(freeId('chart', taken(), true), each, statement.value?.id === each.id ? line.value?.id : undefined)),
    })),
    ...(books.value
      ? readyStatements.map((kind): Command => ({
          id: `statement ${kind}`,
          group: 'Statements',
          label: readyNames[kind],
          icon: 'i-lucide-scale',
          run: () => addStatement(kind),
        }))
      : []),
    ...(inPanel.value
      ? [
          {
            id: 'text',
            label: 'Text',
            icon: 'i-lucide-type',
            run: () => put('Add text', { kind: 'text', x: 0, y: 0, width: 160, text: 'Text' }),
          },
          {
            id: 'picture',
            label: 'Picture',
            icon: 'i-lucide-image',
            run: () =>
              put('Add picture', {
                kind: 'image',
                x: 0,
                y: 0,
                width: 60,
                height: 60,
                svg:
                  '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 60"><rect width="60" height="60" ' +
                  'fill="#e5ded3"/><path d="M8 48L24 26L34 38L42 30L54 48Z" fill="#b7a68d"/></svg>',
              }),
          },
          {
            id: 'line',
            label: 'Line',
            icon: 'i-lucide-minus',
            run: () => put('Add line', { kind: 'rule', x: 0, y: 0, width: 200, thickness: 0.75, colour: '#26221d' }),
          },
          {
            id: 'box',
            label: 'Box',
            icon: 'i-lucide-square',
            run: () => put('Add box', { kind: 'box', x: 0, y: 0, width: 160, height: 40, border: '#26221d', thickness: 0.75 }),
          },
          {
            id: 'qr',
            label: 'QR code',
            icon: 'i-lucide-qr-code',
            run: () => put('Add code', { kind: 'code', x: 0, y: 0, width: 56, height: 56, code: 'qrcode', text: 'Text' }),
          },
          {
            id: 'bars',
            label: 'Barcode',
            icon: 'i-lucide-barcode',
            run: () => put('Add code', { kind: 'code', x: 0, y: 0, width: 140, height: 32, code: 'code128', text: '12345' }),
          },
        ].map(each => ({ ...each, group: 'Into this panel' }))
      : []),
    ...agesHere.value.map(ageing => ({
      id: `ages ${ageing.name}`,
      group: 'Columns',
      label: `Columns of ages ${ageing.name}`,
      icon: 'i-lucide-calendar-range',
      run: () => report.edit('Columns of ages', now => addAgeColumns(now, table.value!.id, ageing, selection.value?.cell)),
    })),
    ...nestable.value.map(level => ({
      id: `nest ${level.name}`,
      group: 'Under each row',
      label: `${level.caption} under each row`,
      icon: 'i-lucide-list-tree',
      run: () => report.edit('Details under each row', now => nestTable(now, table.value!.id, { ...tableOf(level), left: 18 })),
    })),
    ...(charted.value.length
      ? [
          {
            id: 'signatures',
            group: 'Blocks',
            label: 'Prepared-by lines',
            icon: 'i-lucide-signature',
            run: () => add('Prepared-by lines', signaturePanel(freeId('signatures', taken(), true), bodyWidth(report.layout!.page))),
          },
        ]
      : []),
    { id: 'panel', group: 'Blocks', label: 'Panel', icon: 'i-lucide-layout-template', run: () => add('Add panel', panel()) },
    ...levels.value.map(level => ({
      id: `table ${level.name}`,
      group: 'Blocks',
      label: `Table of ${manyOf(level.caption)}`,
      icon: 'i-lucide-table',
      run: () => add('Add table', tableOf(level)),
    })),
    ...levels.value.map(level => ({
      id: `repeat ${level.name}`,
      group: 'Blocks',
      label: `Repeat for each ${oneOf(level.caption)}`,
      icon: 'i-lucide-repeat',
      run: () =>
        add('Add repeat', {
          kind: 'repeat',
          id: freeId(`each_${level.name}`, taken(), true),
          level: level.name,
          newPage: false,
          restartNumbers: false,
          after: 0,
          blocks: [panel()],
        }),
    })),
    ...(definition.value.tieOuts?.length
      ? [
          {
            id: 'ties',
            group: 'Blocks',
            label: 'Tie-outs of the run',
            icon: 'i-lucide-scale',
            run: () =>
              add('Tie-outs on the page', {
                kind: 'ties',
                id: freeId('tieOuts', taken(), true),
                left: 0,
                width: 0,
                failedOnly: false,
                after: 8,
              }),
          },
        ]
      : []),
    {
      id: 'break',
      group: 'Blocks',
      label: 'Page break',
      icon: 'i-lucide-separator-horizontal',
      run: () => add('Add page break', { kind: 'break', id: freeId('break', taken(), true), after: 0 }),
    },
  ])
  const drafts: Command[] = (
    [
      ['document', 'a document for each record', 'i-lucide-file-text'],
      ['grouped', 'a list in groups', 'i-lucide-rows-3'],
      ['list', 'a plain list', 'i-lucide-list'],
    ] as const
  ).map(([kind, words, icon]) => ({
    id: `draft ${kind}`,
    group: 'Draft from the data',
    label: `Draft ${words}`,
    icon,
    run: () => draft(kind),
  }))
  const jumps = computed<Command[]>(() => [
    ...tables.value.flatMap(each =>
      isTable(each)
        ? [
            ...each.rows
              .filter(row => row.kind !== 'titles')
              .map((row): Command => ({
                id: `row ${each.id} ${row.id}`,
                group: `In “${each.id}”`,
                label: `next ${
                  row.group
                    ? `${partWords[row.kind]} of ` + `${row.group.replaceAll('_', ' ')}`
                    : row.id === row.kind
                      ? partWords[row.kind]
                      : `row “${row.id}”`
                }`,
                run: () => seek({ block: each.id, row: row.id }, partWords[row.kind]),
              })),
            ...each.columns
              .filter(own => !own.hidden && columnValue(each, own.id))
              .map((own): Command =>
                own.style?.align === 'right'
                  ? {
                      id: `largest ${each.id} ${own.id}`,
                      group: `In “${each.id}”`,
                      label: `the largest ${own.id.replaceAll('_', ' ')}`,
                      run: () => seek({ block: each.id, largest: own.id }, 'line'),
                    }
                  : {
                      id: `longest ${each.id} ${own.id}`,
                      group: `In “${each.id}”`,
                      label: `the longest ${own.id.replaceAll('_', ' ')}`,
                      run: () => seek({ block: each.id, longest: own.id }, 'line'),
                    },
              ),
          ]
        : [],
    ),
    { id: 'most lines', group: 'Records', label: 'the one with most lines', run: () => seek({ mostLines: '' }, 'record with lines') },
    ...sheet.notices
      .filter(notice => notice.page !== undefined)
      .slice(0, 8)
      .map((notice): Command => ({
        id: `notice ${notice.sentence}`,
        group: 'Notices',
        label: notice.sentence,
        run: () => view.show(notice.page!),
      })),
  ])
  const layouts = computed<Command[]>(() => [
    ...definition.value.layouts.map((layout): Command => ({
      id: `layout ${layout.name}`,
      group: 'Layouts',
      label: layout.name,
      icon: layout.name === report.layout?.name ? 'i-lucide-check' : 'i-lucide-file',
      ...(layoutIsDefault(layout.name) ? { hint: 'default' } : {}),
      run: () => {
        sheet.selection = undefined
        report.layoutName = layout.name
      },
    })),
    {
      id: 'copy layout',
      group: 'This layout',
      label: 'Copy this layout',
      icon: 'i-lucide-copy',
      run: () => {
        report.edit('Copy layout', now => copyLayout(now, report.layout!.name, `${report.layout!.name} copy`))
        report.layoutName = definition.value.layouts.at(-1)!.name
      },
    },
    {
      id: 'default layout',
      group: 'This layout',
      label: 'Make it the default',
      icon: 'i-lucide-star',
      run: () => report.edit('Default layout', now => setDefaultLayout(now, report.layout!.name)),
    },
    ...(definition.value.layouts.length > 1
      ? [
          {
            id: 'delete layout',
            group: 'This layout',
            label: 'Delete this layout',
            icon: 'i-lucide-trash-2',
            run: () => {
              report.edit('Delete layout', now => removeLayout(now, report.layout!.name))
              report.layoutName = undefined
              sheet.selection = undefined
            },
          },
        ]
      : []),
  ])
  const layoutIsDefault = (name: string) =>
    (definition.value.layout ?? definition.value.layouts[0]!.name) === name && definition.value.layouts.length > 1
  function rename(name: string): void {
    const before = report.layout!.name
    report.edit('Rename layout', now => renameLayout(now, before, name.trim()))
    report.layoutName = definition.value.layouts.some(each => each.name === name.trim()) ? name.trim() : before
  }

  const commands = computed<Command[]>(() => [
    { id: 'undo', group: 'Edit', label: 'Undo', icon: 'i-lucide-undo-2', keys: ['ctrl', 'z'], run: report.undo },
    { id: 'redo', group: 'Edit', label: 'Redo', icon: 'i-lucide-redo-2', keys: ['ctrl', 'y'], run: report.redo },
    ...(selection.value?.cell
      ? [
          {
            id: 'write',
            group: 'Edit',
            label: 'Write in this cell',
            icon: 'i-lucide-pencil',
            keys: ['enter'],
            run: () => (sheet.editing = true),
          },
          { id: 'trace', group: 'Edit', label: 'Trace this figure', icon: 'i-lucide-footprints', keys: ['t'], run: view.trace },
        ]
      : []),
    ...(block.value
      ? [
          { id: 'copy block', group: 'Edit', label: 'Copy this block', icon: 'i-lucide-copy', keys: ['ctrl', 'c'], run: copyBlock },
          {
            id: 'duplicate',
            group: 'Edit',
            label: 'Duplicate this block',
            icon: 'i-lucide-copy-plus',
            keys: ['ctrl', 'd'],
            run: () => report.edit('Duplicate block', now => duplicateBlock(now, block.value!.id)),
          },
          {
            id: 'block up',
            group: 'Edit',
            label: 'Move this block up',
            icon: 'i-lucide-arrow-up',
            keys: ['alt', 'pageup'],
            run: () => report.edit('Move block', now => shiftBlock(now, block.value!.id, -1)),
          },
          {
            id: 'block down',
            group: 'Edit',
            label: 'Move this block down',
            icon: 'i-lucide-arrow-down',
            keys: ['alt', 'pagedown'],
            run: () => report.edit('Move block', now => shiftBlock(now, block.value!.id, 1)),
          },
          ...levels.value.map(level => ({
            id: `wrap ${level.name}`,
            group: 'Edit',
            label: `Repeat this block for each ${oneOf(level.caption)}`,
            icon: 'i-lucide-repeat',
            run: () => report.edit('Repeat', now => wrapInRepeat(now, block.value!.id, level.name)),
          })),
        ]
      : []),
    { id: 'paste block', group: 'Edit', label: 'Paste the copied block', icon: 'i-lucide-clipboard', keys: ['ctrl', 'v'], run: pasteBlock },
    ...(selection.value?.cell
      ? [
          {
            id: 'copy look',
            group: 'Edit',
            label: 'Copy this look',
            icon: 'i-lucide-paintbrush',
            keys: ['ctrl', 'shift', 'c'],
            run: () => (copiedLook = { ...style.value }),
          },
          {
            id: 'put look',
            group: 'Edit',
            label: 'Put the copied look here',
            icon: 'i-lucide-paint-roller',
            keys: ['ctrl', 'shift', 'v'],
            run: () =>
              copiedLook &&
              report.edit('Look', now =>
                [selection.value!.cell!, ...(selection.value!.more ?? [])].reduce(
                  (sum, each) => setStyle(sum, block.value!.id, each, copiedLook!),
                  now,
                ),
              ),
          },
        ]
      : []),
    ...insertions.value.map(each => ({ ...each, group: 'Add', label: `Add: ${each.label.charAt(0).toLowerCase()}${each.label.slice(1)}` })),
    ...(grouped.value
      ? groupFields(levels.value, levelOfBlock(definition.value, levels.value, grouped.value.id))
          .slice(0, 40)
          .map((field): Command => ({
            id: `group ${field.level} ${field.path}`,
            group: 'Group',
            icon: 'i-lucide-rows-3',
            label: `Group by ${fieldTitle(field).toLowerCase()}`,
            hint: field.path,
            run: () =>
              group(
                fieldFormula(levels.value, levelOfBlock(definition.value, levels.value, grouped.value!.id), field.level, field.path),
                field.type === 'date',
              ),
          }))
      : []),
    ...(table.value && selection.value?.more?.length
      ? [
          {
            id: 'across',
            group: 'Edit',
            label: 'Total these columns across',
            icon: 'i-lucide-sigma',
            run: () =>
              report.edit('Total across', now =>
                addTotalAcross(now, table.value!.id, [selection.value!.cell!, ...selection.value!.more!], 'Total'),
              ),
          },
        ]
      : []),
    ...drafts,
    ...jumps.value.map(each => ({
      ...each,
      group: 'Show me',
      label: each.group === 'Notices' ? each.label : `Show ${each.label}`,
      icon: 'i-lucide-crosshair',
    })),
    ...layouts.value.map(each => (each.group === 'Layouts' ? { ...each, label: `Layout ${each.label}` } : each)),
    ...[...themes, ...(definition.value.themes ?? [])].map((theme): Command => ({
      id: `theme ${theme.name}`,
      group: 'Theme',
      icon: 'i-lucide-palette',
      label: `Theme ${theme.name}`,
      run: () => report.edit('Theme', now => setLayout(now, report.layout!.name, { theme: theme.name })),
    })),
    { id: 'find', group: 'View', label: 'Find on the sheet', icon: 'i-lucide-search', keys: ['ctrl', 'f'], run: view.find },
    { id: 'fit', group: 'View', label: 'Fit the width', icon: 'i-lucide-maximize-2', keys: ['ctrl', '0'], run: view.fit },
    {
      id: 'side',
      group: 'View',
      label: view.side.value ? 'One page under the other' : 'Pages side by side',
      icon: 'i-lucide-columns-2',
      run: () => (view.side.value = !view.side.value),
    },
    { id: 'data', group: 'Stages', label: 'To Data', icon: 'i-lucide-database', run: () => navigateTo(`/reports/${report.id}/data`) },
    { id: 'tieout', group: 'Stages', label: 'To Tie-out', icon: 'i-lucide-scale', run: () => navigateTo(`/reports/${report.id}/tieout`) },
    {
      id: 'parameters',
      group: 'Stages',
      label: 'To Parameters',
      icon: 'i-lucide-sliders-horizontal',
      run: () => navigateTo(`/reports/${report.id}/parameters`),
    },
  ])
  return { commands, insertions, drafts, jumps, layouts, rename, add, panel, copyBlock, pasteBlock, nudge, tableOf }
}
