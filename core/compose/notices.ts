import type { PanelBlock, PanelItem } from '../definition/blocks/panel'
import type { BoxPart } from './page'
import { lineSpacing } from './fonts'
import { contrast, type ResolvedStyle } from './style'

/** An edit of core/definition/edits.ts by its name, as a remedy is sent from the worker to the page. */
export interface Remedy {
  label: string
  edit: 'setText' | 'setColumnWidth' | 'setField' | 'setColumn' | 'moveItem' | 'setStyle' | 'setPageOf' | 'setStatement' | 'setItem'
  args: unknown[]
}

export const noticeKinds = [
  'cut',
  'narrow',
  'lineField',
  'twins',
  'split',
  'hidden',
  'overlap',
  'currencies',
  'contrast',
  'picture',
  'dates',
  'accounts',
  'tall',
  'chart',
  'nested',
  'invoice',
  'payment',
  'alternative',
  'signs',
] as const

/** A remark on the layout or its data: where, in one sentence, and what can be done about it. */
export interface LayoutNotice {
  kind: (typeof noticeKinds)[number]
  block: string
  row?: string
  cell?: string
  part: BoxPart
  sentence: string
  remedies: Remedy[]
  /** a page on which it occurs, counted from 0 */
  page?: number
}

/** Items of a panel whose first lines lie on one another. */
export function overlaps(panel: PanelBlock, size: (item: PanelItem) => number): LayoutNotice[] {
  const found: LayoutNotice[] = []
  const height = (item: PanelItem) => (item.kind === 'text' ? size(item) * lineSpacing * 0.8 : item.kind === 'rule' ? 0 : item.height)
  const solid = panel.items.filter(item => item.kind === 'text' || item.kind === 'image' || item.kind === 'code')
  for (let index = 0; index < solid.length; index++) {
    for (const other of solid.slice(index + 1)) {
      const item = solid[index]!
      // two texts that are never shown together may share their place
      if (item.showWhen || other.showWhen) continue
      const across = Math.min(item.x + item.width, other.x + other.width) - Math.max(item.x, other.x)
      const down = Math.min(item.y + height(item), other.y + height(other)) - Math.max(item.y, other.y)
      if (across < 2 || down < 2 || (item.kind === 'text' && other.kind === 'text' && sides(item, other))) continue
      found.push({
        kind: 'overlap',
        block: panel.id,
        cell: other.id,
        part: 'item',
        sentence: `${said(other)} lies on ${said(item)}.`,
        remedies: [
          { label: 'Move it below', edit: 'moveItem', args: [panel.id, other.id, other.x, Math.ceil(item.y + height(item) / 0.8 + 2)] },
        ],
      })
    }
  }
  return found
}

/** An item as its author knows it: by what it says, or by what it is. */
function said(item: PanelItem): string {
  if (item.kind !== 'text') return item.kind === 'code' ? 'The code' : item.kind === 'image' ? 'The picture' : 'The line'
  const words = item.text.replace(/\s+/g, ' ').trim()
  return words ? `“${words.length > 40 ? `${words.slice(0, 39)}…` : words}”` : 'An empty text'
}

/** One starts at the left and the other ends at the right of a shared line: they meet only where both are long. */
function sides(a: PanelItem & { kind: 'text' }, b: PanelItem & { kind: 'text' }): boolean {
  return (a.style?.align === 'right') !== (b.style?.align === 'right')
}

/** Text that is hard to read on what is behind it: below 4.5 to 1, or 3 to 1 for large letters (WCAG 2.2, 1.4.3). */
export function plainContrast(
  style: ResolvedStyle,
  fill: string | undefined,
  at: Pick<LayoutNotice, 'block' | 'row' | 'cell' | 'part'>,
): LayoutNotice[] {
  const bold = /Bold/.test(style.font)
  const least = style.size >= 18 || (bold && style.size >= 14) ? 3 : 4.5
  const ratio = contrast(style.colour, fill)
  if (ratio >= least) return []
  return [
    {
      kind: 'contrast',
      ...at,
      sentence:
        `Text of the colour ${style.colour} is hard to read on ${fill ?? 'white'}: ${ratio.toFixed(1)} to 1, where ${least} ` +
        `to 1 is wanted.`,
      remedies: [
        {
          label: 'Darken it',
          edit: 'setStyle',
          args: [at.block, at.cell, { colour: contrast('#26221d', fill) >= least ? '#26221d' : '#ffffff' }, ...(at.row ? [at.row] : [])],
        },
      ],
    },
  ]
}

/**
 * Records of an ageing that have not the date which comes first: how many, and what they are aged by instead. Nothing where all have it.
 */
export function datedSentence(caption: string, dates: readonly string[], counts: readonly number[]): string | undefined {
  const taken = dates.slice(1).flatMap((date, index) => (counts[index + 1] ? [`${counts[index + 1]} by ${date}`] : []))
  const all = counts.slice(1).reduce((sum, each) => sum + each, 0)
  return all
    ? `${all} of ${caption.toLowerCase()} ${all === 1 ? 'has' : 'have'} no date of ${all === 1 ? 'its' : 'their'} own to be aged ` +
        `by; dated instead: ${taken.join(', ')}.`
    : undefined
}

/**
 * Pictures of panels that are to be read aloud and say nothing (PDF/UA-1, 7.3): each with a notice. What is read of a code, or of a
 * payment, is what it holds.
 */
export function silentPictures(panels: readonly PanelBlock[], shared?: PanelBlock): LayoutNotice[] {
  return panels.flatMap(panel =>
    panel.items
      .filter(item => item.kind === 'image' && item.alt === undefined)
      .map(item => ({
        kind: 'alternative' as const,
        block: panel.id,
        cell: item.id,
        part: 'item' as const,
        sentence: 'Nothing is read aloud for a picture; say what it shows, or that it is only decoration.',
        remedies: panel === shared ? [] : [{ label: 'It is decoration', edit: 'setItem' as const, args: [panel.id, item.id, { alt: '' }] }],
      })),
  )
}
