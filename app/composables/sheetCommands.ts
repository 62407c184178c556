import { type DraftKind, draftKinds, draftLayout } from '../../core/templates/drafts/layout'
import { Tables } from '../../core/templates/drafts/tables'
import { findTable } from '../../core/catalog/types'
import { listOfTable } from '../../core/templates/draft'
import { crosstabOfTable, tableOfCrosstab, turnsIntoCrosstab } from '../../core/templates/turn'
import { measureCaption } from '../../core/compose/crosstab/prepare'
import { checked, columnTotals, groupFields } from '../../core/compose/totals'
import {
  addGroup,
  addTotalAcross,
  blocksOf,
  changeBlock,
  copyLayout,
  duplicateBlock,
  moveItems,
  putLayout,
  removeLayout,
  renameLayout,
  setDefaultLayout,
  setLayout,
  setStyle,
  shiftBlock,
  wrapInRepeat,
} from '../../core/definition/edits/edits'
import type { Block } from '../../core/definition/blocks/block'
import { isTable, type TableBlock } from '../../core/definition/blocks/table'
import type { TextStyle } from '../../core/definition/style'
import { themes } from '../../core/compose/themes'
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
  const { report, sheet, definition, selection, block, table, crosstab, item, style } = useSheetSelection()
  const toast = useToast()
  const { insertions, add, ...nest } = useSheetInsertions()
  const { jumps } = useSheetJumps(view.show)
  const levels = computed(() => report.tree?.levels ?? [])

  function group(formula: string, date: boolean): void {
    const own = grouped.value!
    const scope = { ...scopeOfBlock(definition.value, levels.value, own.id), row: 'line' as const }
    report.edit(t('common.addGroup'), now =>
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
    const name = { document: t('common.document'), groups: t('sheetCommands.groupedList'), list: t('sheetCommands.list') }[kind]
    const made = draftLayout(definition.value, new Tables(report.model!.catalog), levels.value, kind, report.name, name)
    // the page that a new report starts with is replaced; one that somebody has worked on stays beside the draft
    const { source, root } = definition.value.dataSets[0]!
    const first = findTable(report.catalog!, root.table)
      ? listOfTable(report.catalog!, root.table, source, report.name).layouts[0]!
      : undefined
    const fresh = sameContent(report.layout!.blocks, first?.blocks)
    report.edit(t('sheetCommands.draft'), now => putLayout(now, made, fresh ? report.layout!.name : undefined))
    if (!fresh) {
      toast.add({ title: t('sheetCommands.theDraftStandsBesideAs', { name: report.layout!.name }), icon: 'i-lucide-files' })
      report.layoutName = definition.value.layouts.at(-1)!.name
    }
    sheet.selection = undefined
  }
  /** A block of another kind stands in the place of the selected one, under its name. */
  function turn(into: Block): void {
    report.edit(t('sheetCommands.turn'), now => changeBlock(now, into.id, () => into))
    sheet.selection = undefined
  }
  function copyBlock(): void {
    if (!block.value) return
    localStorage.setItem(clipboard, JSON.stringify(block.value))
    toast.add({ title: t('sheetCommands.isCopiedCtrlVPuts', { id: block.value.id }), icon: 'i-lucide-copy' })
  }
  function pasteBlock(): void {
    const kept = localStorage.getItem(clipboard)
    if (kept) add(t('sheetCommands.pasteBlock'), JSON.parse(kept) as Block)
  }
  function nudge(dx: number, dy: number): void {
    if (item.value)
      report.edit(
        t('sheetCommands.nudge'),
        now => moveItems(now, block.value!.id, [item.value!.id, ...(selection.value!.more ?? [])], dx, dy),
        `nudge ${block.value!.id} ${item.value.id}`,
      )
  }
  /** the table that a group goes into: the selected one, or the only one there is */
  const grouped = computed(() => table.value ?? (tables.value.length === 1 ? (tables.value[0] as TableBlock) : undefined))
  const tables = computed(() => blocksOf(report.layout!).filter(each => isTable(each)))

  const drafts: Command[] = draftKinds.map(kind => ({
    id: `draft ${kind}`,
    group: t('sheetCommands.draftFromTheData'),
    label: t('sheetCommands.draft2', { words: draftWords(kind).words }),
    icon: draftWords(kind).icon,
    run: () => draft(kind),
  }))
  const layouts = computed<Command[]>(() => [
    ...definition.value.layouts.map((layout): Command => ({
      id: `layout ${layout.name}`,
      group: t('sheetCommands.layouts'),
      label: layout.name,
      icon: layout.name === report.layout?.name ? 'i-lucide-check' : 'i-lucide-file',
      ...(layoutIsDefault(layout.name) ? { hint: t('sheetCommands.default') } : {}),
      run: () => {
        sheet.selection = undefined
        report.layoutName = layout.name
      },
    })),
    {
      id: 'copy layout',
      group: t('sheetCommands.thisLayout'),
      label: t('sheetCommands.copyThisLayout'),
      icon: 'i-lucide-copy',
      run: () => {
        report.edit(t('sheetCommands.copyLayout'), now =>
          copyLayout(now, report.layout!.name, t('sheetCommands.copyOf', { name: report.layout!.name })),
        )
        report.layoutName = definition.value.layouts.at(-1)!.name
      },
    },
    {
      id: 'default layout',
      group: t('sheetCommands.thisLayout'),
      label: t('sheetCommands.makeItTheDefault'),
      icon: 'i-lucide-star',
      run: () => report.edit(t('sheetCommands.defaultLayout'), now => setDefaultLayout(now, report.layout!.name)),
    },
    ...(definition.value.layouts.length > 1
      ? [
          {
            id: 'delete layout',
            group: t('sheetCommands.thisLayout'),
            label: t('sheetCommands.deleteThisLayout'),
            icon: 'i-lucide-trash-2',
            run: () => {
              report.edit(t('sheetCommands.deleteLayout'), now => removeLayout(now, report.layout!.name))
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
    report.edit(t('sheetCommands.renameLayout'), now => renameLayout(now, before, name.trim()))
    report.layoutName = definition.value.layouts.some(each => each.name === name.trim()) ? name.trim() : before
  }

  const commands = computed<Command[]>(() => [
    { id: 'undo', group: t('common.edit'), label: t('common.undo'), icon: 'i-lucide-undo-2', keys: ['ctrl', 'z'], run: report.undo },
    { id: 'redo', group: t('common.edit'), label: t('sheetCommands.redo'), icon: 'i-lucide-redo-2', keys: ['ctrl', 'y'], run: report.redo },
    ...(selection.value?.cell
      ? [
          {
            id: 'write',
            group: t('common.edit'),
            label: t('sheetCommands.writeInThisCell'),
            icon: 'i-lucide-pencil',
            keys: ['enter'],
            run: () => (sheet.editing = true),
          },
          {
            id: 'trace',
            group: t('common.edit'),
            label: t('sheetCommands.traceThisFigure'),
            icon: 'i-lucide-footprints',
            keys: ['t'],
            run: view.trace,
          },
        ]
      : []),
    ...(block.value
      ? [
          {
            id: 'copy block',
            group: t('common.edit'),
            label: t('sheetCommands.copyThisBlock'),
            icon: 'i-lucide-copy',
            keys: ['ctrl', 'c'],
            run: copyBlock,
          },
          {
            id: 'duplicate',
            group: t('common.edit'),
            label: t('sheetCommands.duplicateThisBlock'),
            icon: 'i-lucide-copy-plus',
            keys: ['ctrl', 'd'],
            run: () => report.edit(t('common.duplicateBlock'), now => duplicateBlock(now, block.value!.id)),
          },
          {
            id: 'block up',
            group: t('common.edit'),
            label: t('sheetCommands.moveThisBlockUp'),
            icon: 'i-lucide-arrow-up',
            keys: ['alt', 'pageup'],
            run: () => report.edit(t('common.moveBlock'), now => shiftBlock(now, block.value!.id, -1)),
          },
          {
            id: 'block down',
            group: t('common.edit'),
            label: t('sheetCommands.moveThisBlockDown'),
            icon: 'i-lucide-arrow-down',
            keys: ['alt', 'pagedown'],
            run: () => report.edit(t('common.moveBlock'), now => shiftBlock(now, block.value!.id, 1)),
          },
          ...levels.value.map(level => ({
            id: `wrap ${level.name}`,
            group: t('common.edit'),
            label: t('sheetCommands.repeatThisBlockForEach', { oneOf: oneOf(level.caption) }),
            icon: 'i-lucide-repeat',
            run: () => report.edit(t('sheetCommands.repeat'), now => wrapInRepeat(now, block.value!.id, level.name)),
          })),
        ]
      : []),
    ...(table.value && turnsIntoCrosstab(table.value)
      ? [
          {
            id: 'turn into crosstab',
            group: t('common.edit'),
            label: t('sheetCommands.turnThisTableIntoA'),
            icon: 'i-lucide-grid-3x3',
            run: () => turn(crosstabOfTable(table.value!)),
          },
        ]
      : []),
    ...(crosstab.value
      ? [
          {
            id: 'turn into table',
            group: t('common.edit'),
            label: t('sheetCommands.turnThisCrosstabIntoA'),
            icon: 'i-lucide-table',
            run: () => {
              const scope = scopeOfBlock(report.definition!, report.tree!.levels, crosstab.value!.id)
              turn(tableOfCrosstab(crosstab.value!, each => measureCaption(each, checked(each.formula, scope))))
            },
          },
        ]
      : []),
    {
      id: 'paste block',
      group: t('common.edit'),
      label: t('sheetCommands.pasteTheCopiedBlock'),
      icon: 'i-lucide-clipboard',
      keys: ['ctrl', 'v'],
      run: pasteBlock,
    },
    ...(selection.value?.cell
      ? [
          {
            id: 'copy look',
            group: t('common.edit'),
            label: t('sheetCommands.copyThisLook'),
            icon: 'i-lucide-paintbrush',
            keys: ['ctrl', 'shift', 'c'],
            run: () => (copiedLook = { ...style.value }),
          },
          {
            id: 'put look',
            group: t('common.edit'),
            label: t('sheetCommands.putTheCopiedLookHere'),
            icon: 'i-lucide-paint-roller',
            keys: ['ctrl', 'shift', 'v'],
            run: () =>
              copiedLook &&
              report.edit(t('common.look'), now =>
                [selection.value!.cell!, ...(selection.value!.more ?? [])].reduce(
                  (sum, each) => setStyle(sum, block.value!.id, each, copiedLook!),
                  now,
                ),
              ),
          },
        ]
      : []),
    ...insertions.value.map(each => ({
      ...each,
      group: t('common.add'),
      label: t('sheetCommands.add', { charAt: each.label.charAt(0).toLowerCase(), label: each.label.slice(1) }),
    })),
    ...(grouped.value
      ? groupFields(levels.value, levelOfBlock(definition.value, levels.value, grouped.value.id))
          .slice(0, 40)
          .map((field): Command => ({
            id: `group ${field.level} ${field.path}`,
            group: t('common.group'),
            icon: 'i-lucide-rows-3',
            label: t('sheetCommands.groupBy', { field: fieldTitle(field).toLowerCase() }),
            hint: field.path,
            run: () =>
              group(
                fieldFormula(levels.value, levelOfBlock(definition.value, levels.value, grouped.value!.id), field.level, field.path),
                field.type === 'date' || field.type === 'moment',
              ),
          }))
      : []),
    ...(table.value && selection.value?.more?.length
      ? [
          {
            id: 'across',
            group: t('common.edit'),
            label: t('sheetCommands.totalTheseColumnsAcross'),
            icon: 'i-lucide-sigma',
            run: () =>
              report.edit(t('sheetCommands.totalAcross'), now =>
                addTotalAcross(now, table.value!.id, [selection.value!.cell!, ...selection.value!.more!], 'Total'),
              ),
          },
        ]
      : []),
    ...drafts,
    ...jumps.value.map(each => ({
      ...each,
      group: t('sheetCommands.showMe'),
      label: each.id.startsWith('notice ') ? each.label : t('sheetCommands.show', { label: each.label }),
      icon: 'i-lucide-crosshair',
    })),
    ...layouts.value.map(each =>
      each.id.startsWith('layout ') ? { ...each, label: t('sheetCommands.layout', { label: each.label }) } : each,
    ),
    ...[...themes, ...(definition.value.themes ?? [])].map((theme): Command => ({
      id: `theme ${theme.name}`,
      group: t('sheetCommands.theme'),
      icon: 'i-lucide-palette',
      label: t('sheetCommands.theme2', { name: theme.name }),
      run: () => report.edit(t('sheetCommands.theme'), now => setLayout(now, report.layout!.name, { theme: theme.name })),
    })),
    {
      id: 'find',
      group: t('sheetCommands.view'),
      label: t('sheetCommands.findOnTheSheet'),
      icon: 'i-lucide-search',
      keys: ['ctrl', 'f'],
      run: view.find,
    },
    {
      id: 'fit',
      group: t('sheetCommands.view'),
      label: t('sheetCommands.fitTheWidth'),
      icon: 'i-lucide-maximize-2',
      keys: ['ctrl', '0'],
      run: view.fit,
    },
    {
      id: 'side',
      group: t('sheetCommands.view'),
      label: view.side.value ? t('sheetCommands.onePageUnderTheOther') : t('sheetCommands.pagesSideBySide'),
      icon: 'i-lucide-columns-2',
      run: () => (view.side.value = !view.side.value),
    },
    {
      id: 'data',
      group: t('sheetCommands.stages'),
      label: t('sheetCommands.toData'),
      icon: 'i-lucide-database',
      run: () => navigateTo(`/reports/${report.id}/data`),
    },
    {
      id: 'tieout',
      group: t('sheetCommands.stages'),
      label: t('sheetCommands.toTieOut'),
      icon: 'i-lucide-scale',
      run: () => navigateTo(`/reports/${report.id}/tieout`),
    },
    {
      id: 'parameters',
      group: t('sheetCommands.stages'),
      label: t('sheetCommands.toParameters'),
      icon: 'i-lucide-sliders-horizontal',
      run: () => navigateTo(`/reports/${report.id}/parameters`),
    },
    {
      id: 'deliver',
      group: t('sheetCommands.stages'),
      label: t('sheetCommands.toDeliver'),
      icon: 'i-lucide-send',
      run: () => navigateTo(`/reports/${report.id}/deliver`),
    },
  ])
  return { commands, insertions, drafts, jumps, layouts, rename, add, copyBlock, pasteBlock, nudge, nest }
}
