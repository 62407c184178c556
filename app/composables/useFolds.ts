import { foldPage, foldsOf } from '../../core/compose/statement/fold'
import type { Page } from '../../core/compose/page'

/** Folding of the accounts of statements on screen: pages without what is folded. Nothing of the report changes. */
export function useFolds(pages: Ref<ReadonlyMap<number, Page>>, statements: Ref<ReadonlySet<string>>) {
  const closed = ref<ReadonlySet<string>>(new Set())
  const folded = computed<ReadonlyMap<number, Page>>(() =>
    closed.value.size
      ? new Map([...pages.value].map(([index, page]) => [index, foldPage(page, statements.value, closed.value)]))
      : pages.value,
  )
  const folds = (page: Page | undefined) => (page && statements.value.size ? foldsOf(page, statements.value, closed.value) : [])
  function toggle(id: string): void {
    const next = new Set(closed.value)
    if (!next.delete(id)) next.add(id)
    closed.value = next
  }
  /** Folds all that the pages at hand show, or opens all again. */
  function all(shut: boolean): void {
    closed.value = shut
      ? new Set([
          ...closed.value,
          ...[...pages.value.values()].flatMap(page => foldsOf(page, statements.value, new Set()).map(fold => fold.id)),
        ])
      : new Set()
  }
  return { closed, folded, folds, toggle, all }
}
