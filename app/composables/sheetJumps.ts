import { columnValue } from '../../core/compose/totals'
import { blocksOf } from '../../core/definition/edits/edits'
import { isTable } from '../../core/definition/blocks/table'
import type { Command } from '../stores/commands'

/** Places of the sheet that can be gone to: rows of each kind, the longest, the largest, what is noticed. */
export function useSheetJumps(show: (page: number) => void) {
  const { report, sheet, selection } = useSheetSelection()
  const toast = useToast()
  const tables = computed(() => blocksOf(report.layout!).filter(each => isTable(each)))
  async function seek(what: Parameters<typeof sheet.seek>[0], words: string): Promise<void> {
    const page = await sheet.seek(what, 'row' in what ? (selection.value?.page ?? -1) : -1)
    if (page < 0) toast.add({ title: t('sheetJumps.thereIsNoOnThese', { words }), icon: 'i-lucide-search-x' })
    else show(page)
  }
  const jumps = computed<Command[]>(() => [
    ...tables.value.flatMap(each =>
      isTable(each)
        ? [
            ...each.rows
              .filter(row => row.kind !== 'titles')
              .map((row): Command => ({
                id: `row ${each.id} ${row.id}`,
                group: t('sheetJumps.in', { id: each.id }),
                label: t('sheetJumps.next', {
                  what: row.group
                    ? t('sheetJumps.of', { part: partWords(row.kind), group: row.group.replaceAll('_', ' ') })
                    : row.id === row.kind
                      ? partWords(row.kind)
                      : t('sheetJumps.row', { id: row.id }),
                }),
                run: () => seek({ block: each.id, row: row.id }, partWords(row.kind)),
              })),
            ...each.columns
              .filter(own => !own.hidden && columnValue(each, own.id))
              .map((own): Command =>
                own.style?.align === 'right'
                  ? {
                      id: `largest ${each.id} ${own.id}`,
                      group: t('sheetJumps.in', { id: each.id }),
                      label: t('sheetJumps.theLargest', { id: own.id.replaceAll('_', ' ') }),
                      run: () => seek({ block: each.id, largest: own.id }, partWords('line')),
                    }
                  : {
                      id: `longest ${each.id} ${own.id}`,
                      group: t('sheetJumps.in', { id: each.id }),
                      label: t('sheetJumps.theLongest', { id: own.id.replaceAll('_', ' ') }),
                      run: () => seek({ block: each.id, longest: own.id }, partWords('line')),
                    },
              ),
          ]
        : [],
    ),
    {
      id: 'most lines',
      group: t('common.records'),
      label: t('sheetJumps.theOneWithMostLines'),
      run: () => seek({ mostLines: '' }, t('sheetJumps.recordWithLines')),
    },
    ...sheet.notices
      .filter(notice => notice.page !== undefined)
      .slice(0, 8)
      .map((notice): Command => ({
        id: `notice ${notice.sentence}`,
        group: t('sheetJumps.notices'),
        label: tell(notice.sentence),
        run: () => show(notice.page!),
      })),
  ])
  return { jumps }
}
