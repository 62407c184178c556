import { bodyWidth } from '../../compose/paperSize'
import type { Block } from '../../definition/blocks/block'
import { freeId } from '../../definition/names'
import type { PageSetup } from '../../definition/page'
import type { LayoutDefinition, ReportDefinition } from '../../definition/report'
import { blocksOf } from '../../definition/walk'
import type { LevelInfo } from '../../formula/typed'
import { documentBlocks } from './document'
import { chooseList, listBlocks } from './list'
import { listTop, pageFoot, text } from './parts'
import type { Tables } from './tables'

export const draftKinds = ['document', 'groups', 'list'] as const
export type DraftKind = (typeof draftKinds)[number]

const pageOf = (orientation: PageSetup['orientation']): PageSetup => ({
  size: 'A4',
  orientation,
  margins: { top: 40, right: 45, bottom: 36, left: 45 },
})

/**
 * A finished-looking layout of a data set's levels: a document for each record with its parts and what it comes to, a list in groups with
 * subtotals, or a plain list. All of it is editable like anything else; ids are free in the report.
 */
export function draftLayout(
  report: ReportDefinition,
  tables: Tables,
  levels: readonly LevelInfo[],
  kind: DraftKind,
  title: string,
  name: string,
): LayoutDefinition {
  const taken = report.layouts.flatMap(layout => blocksOf(layout).map(block => block.id))
  const id = (stem: string) => {
    const free = freeId(stem, taken, true)
    taken.push(free)
    return free
  }
  const room = { portrait: bodyWidth(pageOf('portrait')), landscape: bodyWidth(pageOf('landscape')) }
  const layout = (orientation: PageSetup['orientation'], width: number, blocks: Block[], document: boolean): LayoutDefinition => ({
    name,
    page: pageOf(orientation),
    letterhead: true,
    top: document
      ? {
          kind: 'panel',
          id: id('pageTop'),
          height: 12,
          after: 10,
          items: [text('of', 0, 0, width, title, { named: 'small', align: 'right' })],
        }
      : listTop(id('pageTop'), title, width, report.parameters),
    foot: pageFoot(id('pageFoot'), width),
    blocks,
  })
  if (kind === 'document') return layout('portrait', room.portrait, documentBlocks(tables, levels, room.portrait, id), true)
  const list = chooseList(tables, levels, kind === 'groups', room)
  const [orientation, width] = list.landscape ? (['landscape', room.landscape] as const) : (['portrait', room.portrait] as const)
  const made = layout(orientation, width, listBlocks(tables, levels, list, room, report, id(levels[0]!.name)), false)
  // the letterhead would take the place of the title of a list
  const { letterhead: _, ...plain } = made
  return plain
}
