import equal from 'fast-deep-equal'
import type { Page } from '../../core/compose/page'

/** Pages of a kept run: those in view are fetched, far ones let go, so that memory stays level. */
export function useRunPages(run: Ref<string>, count: Ref<number>, problem: Ref<string>) {
  const pages = shallowRef<ReadonlyMap<number, Page>>(new Map())
  let range = { from: 0, to: 3 }
  const asked = new Set<string>()

  async function want(from: number, to: number): Promise<void> {
    range = { from, to: Math.max(to, from + 2) }
    const missing = Array.from({ length: Math.min(range.to, count.value) - from }, (_, index) => from + index).filter(
      page => !pages.value.has(page),
    )
    if (!missing.length || !run.value) return
    const id = run.value
    const key = `${id} ${missing[0]} ${missing.at(-1)}`
    if (asked.has(key)) return
    asked.add(key)
    try {
      const got = await api<Page[]>(`/api/runs/${id}/pages?from=${missing[0]}&to=${missing.at(-1)! + 1}`)
      if (id !== run.value) return
      const next = new Map(pages.value)
      got.forEach((page, index) => next.set(missing[0]! + index, page))
      for (const page of next.keys()) if (next.size > 60 && (page < range.from - 30 || page > range.to + 30)) next.delete(page)
      pages.value = next
    } catch (error) {
      problem.value = (error as Error).message
    } finally {
      asked.delete(key)
    }
  }
  /** A page that came before its time is put right where it is not the same. */
  async function renew(page: number): Promise<void> {
    const id = run.value
    const [now] = await api<Page[]>(`/api/runs/${id}/pages?from=${page}&to=${page + 1}`)
    if (id !== run.value || !now || equal(now, pages.value.get(page))) return
    pages.value = new Map(pages.value).set(page, now)
  }
  /** Asks again for what is in view. */
  const wantInView = () => want(range.from, range.to)
  return { pages, want, wantInView, renew }
}
