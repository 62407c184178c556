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
    const name = { document: 'Document', groups: 'Grouped list', list: 'List' }[kind]
    const made = draftLayout(definition.value, new Tables(report.model!.catalog), levels.value, kind, report.name, name)
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
  /** A block of another kind stands in the place of the selected one, under its name. */
  function turn(into: Block): void {
    report.edit('Turn', now => changeBlock(now, into.id, () => into))
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
  /** the table that a group goes into: the selected one, or the only one there is */
  const grouped = computed(() => table.value ?? (tables.value.length === 1 ? (tables.value[0] as TableBlock) : undefined))
  const tables = computed(() => blocksOf(report.layout!).filter(each => isTable(each)))

  const drafts: Command[] = draftKinds.map(kind => ({
    id: `draft ${kind}`,
    group: 'Draft from the data',
    label: `Draft ${draftWords[kind].words}`,
    icon: draftWords[kind].icon,
    run: () => draft(kind),
  }))
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
    ...(table.value && turnsIntoCrosstab(table.value)
      ? [
          {
            id: 'turn into crosstab',
            group: 'Edit',
            label: 'Turn this table into a crosstab',
            icon: 'i-lucide-grid-3x3',
            run: () => turn(crosstabOfTable(table.value!)),
          },
        ]
      : []),
    ...(crosstab.value
      ? [
          {
            id: 'turn into table',
            group: 'Edit',
            label: 'Turn this crosstab into a table',
            icon: 'i-lucide-table',
            run: () => {
              const scope = scopeOfBlock(report.definition!, report.tree!.levels, crosstab.value!.id)
              turn(tableOfCrosstab(crosstab.value!, each => measureCaption(each, checked(each.formula, scope))))
            },
          },
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
                field.type === 'date' || field.type === 'moment',
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
  return { commands, insertions, drafts, jumps, layouts, rename, add, copyBlock, pasteBlock, nudge, nest }
}
