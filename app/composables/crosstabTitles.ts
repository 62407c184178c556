import { groupTitleAt, movedName, namesInOrder } from '../../core/compose/crosstab/titles'
import type { Box } from '../../core/compose/page'
import { type CrosstabBlock, isCrosstab } from '../../core/definition/blocks/crosstab'
import { setAxisGroup } from '../../core/definition/edits/crosstab'
import { findBlock } from '../../core/definition/walk'

/** Groups of a crosstab put into an order of one's own, by their titles on the sheet. */
export function useCrosstabTitles() {
  const report = useReport()
  const sheet = useSheet()
  const boxes = () => [...sheet.pages.entries()].sort(([a], [b]) => a - b).flatMap(([, page]) => page.boxes)
  const crosstabOf = (box: Box): CrosstabBlock | undefined => {
    const block = findBlock(report.definition!, box.block)
    return isCrosstab(block) ? block : undefined
  }
  const order = (block: CrosstabBlock, group: string, given: string[]) =>
    report.edit(t('crosstabTitles.orderOfGroups'), now =>
      setAxisGroup(now, block.id, group, { order: { by: 'given', descending: false, given } }),
    )

  /** Is it the title of a group? */
  const isTitle = (box: Box): boolean => {
    const block = crosstabOf(box)
    return !!block && !!groupTitleAt(block, box)
  }
  /** May a group go beside another: is it one of the same group, within the same one around both? */
  function beside(box: Box, to: Box): boolean {
    const block = crosstabOf(box)
    const [own, other] = [block && groupTitleAt(block, box), block && groupTitleAt(block, to)]
    return !!own && !!other && own.group.id === other.group.id && own.label !== other.label && own.under === other.under
  }
  function moveBeside(box: Box, to: Box, side: 'before' | 'after'): void {
    const block = crosstabOf(box)!
    const own = groupTitleAt(block, box)!
    order(block, own.group.id, movedName(namesInOrder(block, boxes(), own), own.label, groupTitleAt(block, to)!.label, side))
  }
  /** One place earlier or later along its axis; false where the key means nothing there. */
  function moveBy(box: Box, key: string): boolean {
    const block = crosstabOf(box)
    const own = block && groupTitleAt(block, box)
    if (!block || !own) return false
    const by = ({ rows: { ArrowUp: -1, ArrowDown: 1 }, columns: { ArrowLeft: -1, ArrowRight: 1 } } as const)[own.axis] as Record<
      string,
      number
    >
    const step = by[key]
    if (!step) return false
    const names = namesInOrder(block, boxes(), own)
    const other = names[names.indexOf(own.label) + step]
    if (other !== undefined) order(block, own.group.id, movedName(names, own.label, other, step < 0 ? 'before' : 'after'))
    return true
  }
  return { isTitle, beside, moveBeside, moveBy }
}

/** Dragging of a title beside another: `mark` is where it would go, as a style over the page. */
export function useTitleDrag(
  titles: ReturnType<typeof useCrosstabTitles>,
  page: {
    zoom: () => number
    /** the box under a place of the window, and that place in points of the page */
    boxAt: (place: { clientX: number; clientY: number }) => { box: Box; x: number; y: number } | undefined
  },
) {
  const drop = shallowRef<{ box: Box; side: 'before' | 'after'; across: boolean }>()
  function start(event: PointerEvent, box: Box): void {
    const across = box.part === 'titles'
    followPointer(
      event,
      () => 1,
      (dx, dy) => {
        const over = page.boxAt({ clientX: event.clientX + dx, clientY: event.clientY + dy })
        const after = over && (across ? over.x > over.box.x + over.box.width / 2 : over.y > over.box.y + over.box.height / 2)
        drop.value = over && titles.beside(box, over.box) ? { box: over.box, side: after ? 'after' : 'before', across } : undefined
      },
      4,
      () => {
        const to = drop.value
        drop.value = undefined
        if (to) titles.moveBeside(box, to.box, to.side)
      },
    )
  }
  const mark = computed(() => {
    const at = drop.value
    if (!at) return undefined
    const { x, y, width, height } = at.box
    const end = at.side === 'after'
    const px = (points: number) => `${points * page.zoom()}px`
    return at.across
      ? {
          left: `calc(${px(x + (end ? width : 0))} - 1px)`,
          top: px(y),
          width: '3px',
          height: px(height),
          background: 'var(--color-apricot-500)',
        }
      : {
          left: px(x),
          top: `calc(${px(y + (end ? height : 0))} - 1px)`,
          width: px(width),
          height: '3px',
          background: 'var(--color-apricot-500)',
        }
  })
  return { mark, start }
}
