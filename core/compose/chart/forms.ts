import { compareDecimals, type Decimal, isZero, subtract, toNumber, zero } from '../../value/decimal'
import type { pageWordsOf } from '../words'
import { type ChartSeries, mostParts } from './data'
import type { Found, FoundSeries, Together } from './found'
import type { ChartForm } from '../../definition/blocks/chart'

/** Figures in the form of a chart. `refused` says in one sentence why the form is another than the one that was asked for. */
export interface Formed {
  categories: string[]
  series: ChartSeries[]
  form: ChartForm
  refused?: string
}

const series = ({ print: _, together: __, ...rest }: FoundSeries): ChartSeries => ({
  ...rest,
  values: rest.exact.map(each => (each ? toNumber(each) : null)),
})
const all = ({ exact }: FoundSeries) => exact.map((_, place) => place)
const same = (a: Decimal, b: Decimal | null | undefined) => !!b && compareDecimals(a, b) === 0

/** Some categories of a series, and after them figures over several. */
function chosen(own: FoundSeries, categories: readonly string[], by: readonly number[], rest?: { name: string; of: Together }) {
  const of = by.map(place => own.exact[place] ?? null)
  return {
    categories: [...by.map(place => categories[place]!), ...(rest ? [rest.name] : [])],
    series: [
      series({
        ...own,
        exact: rest ? [...of, rest.of.exact] : of,
        printed: [...by.map(place => own.printed[place]!), ...(rest ? [rest.of.printed] : [])],
        ...(own.at ? { at: (place: number) => (place < by.length ? own.at!(by[place]!) : rest?.of.at) } : {}),
      }),
    ],
  }
}

/** Do the figures of all categories come to the figure over all of them? Averages, different customers and ratios do not. */
function addsUp(own: FoundSeries): boolean {
  const whole = own.together?.(all(own)).exact
  const sum = own.exact.reduce<Decimal>((so, each) => (each ? subtract(so, subtract(zero, each)) : so), zero)
  return whole === null ? isZero(sum) : same(sum, whole)
}

/** The figures as the form wants them: in falling order, as parts of a whole, as steps. */
export function formed(form: ChartForm, { categories, series: found }: Found, words: ReturnType<typeof pageWordsOf>): Formed {
  const plain = (refused?: string): Formed => ({
    categories,
    series: found.map(series),
    form: refused ? 'bars' : form,
    ...(refused ? { refused } : {}),
  })
  const [first, second] = found
  if (!first || !['falling', 'pie', 'ring', 'steps'].includes(form)) return plain()
  const whole = `“${first.name}” of all is not the sum of its parts`
  if (form === 'steps') {
    const [adds, end] = [addsUp(first) && (!second || addsUp(second)), second ?? first]
    if (!adds) return plain(`${whole}, so that no steps lead to it; it is drawn as bars.`)
    const moves = first.exact.map((each, place) => (second ? subtract(second.exact[place] ?? zero, each ?? zero) : (each ?? zero)))
    const [opening, closing] = [second ? first.together!(all(first)) : undefined, end.together!(all(end))]
    const figure = (of: Together | undefined) => ({ exact: of?.exact ?? zero, printed: of?.printed || end.print(of?.exact ?? zero) })
    const ends = [figure(opening), figure(closing)] as const
    const last = moves.length + 1
    const { cell: _, at: __, ...rest } = end
    return {
      categories: [second ? first.name : words.opening, ...categories, second ? second.name : words.closing],
      series: [
        {
          ...series({ ...rest, form: 'bars', colour: first.colour, exact: [ends[0].exact, ...moves, ends[1].exact], printed: [] }),
          printed: [ends[0].printed, ...moves.map(end.print), ends[1].printed],
          // a difference of two figures is behind none of them
          at: place => (place === 0 ? opening?.at : place === last ? closing.at : second ? undefined : first.at?.(place - 1)),
          cellAt: place => (place === 0 ? first.cell : place === last || !second ? end.cell : undefined),
        },
      ],
      form,
    }
  }
  const falling = all(first).sort((a, b) => compareDecimals(first.exact[b] ?? zero, first.exact[a] ?? zero))
  const below = first.exact.some(each => each && toNumber(each) < 0)
  const fault = below ? `Some of “${first.name}” is below zero, and no part of a whole` : addsUp(first) ? undefined : whole
  if (form === 'falling')
    return {
      ...chosen(first, categories, falling),
      form: fault ? 'bars' : form,
      ...(fault ? { refused: `${fault}: the bars have no running share.` } : {}),
    }
  if (fault) return { ...chosen(first, categories, falling), form: 'bars', refused: `${fault}: it is drawn as bars.` }
  const shown = falling.filter(place => first.exact[place] && !isZero(first.exact[place]))
  if (shown.length <= mostParts) return { ...chosen(first, categories, shown), form }
  const rest = first.together!(shown.slice(mostParts - 1))
  return { ...chosen(first, categories, shown.slice(0, mostParts - 1), { name: words.others, of: rest }), form }
}
