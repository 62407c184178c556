import type { BehindFigure } from '../../core/compose/behind'
import type { Box } from '../../core/compose/page'

/** The figure on the pages of a run that is followed back, with the records behind it as soon as they are read. */
export function useRunTrace(runId: Ref<string>) {
  const behind = shallowRef<{ page: number; box: Box; lists?: BehindFigure[]; problem?: string }>()
  async function follow(page: number, box: Box): Promise<void> {
    const mine = { page, box }
    behind.value = mine
    try {
      const { block, rowId, cell, x, y } = box
      const lists = await api<BehindFigure[]>(`/api/runs/${runId.value}/behind`, {
        method: 'POST',
        body: { page, block, cell, x, y, ...(rowId ? { row: rowId } : {}) },
      })
      if (behind.value === mine) behind.value = { ...mine, lists }
    } catch (error) {
      if (behind.value === mine) behind.value = { ...mine, problem: (error as Error).message }
    }
  }
  return { behind, follow }
}
