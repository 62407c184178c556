import type { ChartForm } from '../../definition/blocks/chart'
import { type ChartData, percentOf } from './data'

/** What forms are called, in the panel and in the text for those who do not see the chart. */
export const chartWords: Record<ChartForm, string> = {
  bars: 'bars side by side',
  stacked: 'bars on one another',
  shares: 'bars to 100 %',
  lines: 'lines',
  areas: 'areas',
  points: 'points',
  pie: 'a pie',
  ring: 'a ring',
  steps: 'steps',
  falling: 'bars in falling order',
}

/** Sentences of what a chart shows, in a language: `head` is its title and form, `names` those of its series. */
interface ChartSentences {
  forms: Record<ChartForm, string>
  chart: string
  empty: (title: string | undefined) => string
  steps: (head: string, from: string, to: string, count: number) => string
  parts: (head: string, count: number, largest: string, share: number) => string
  scatter: (head: string, count: number, names: string) => string
  plain: (head: string, names: string, count: number, running: boolean, ends: Record<'first' | 'last' | 'high' | 'low', string>) => string
}

const sentences: Record<string, ChartSentences> = {
  en: {
    forms: chartWords,
    chart: 'Chart',
    empty: title => (title ? `${title}: nothing to draw.` : 'A chart without figures.'),
    steps: (head, from, to, count) => `${head}: from ${from} to ${to} in ${count} ${count === 1 ? 'step' : 'steps'}.`,
    parts: (head, count, largest, share) => `${head}: ${count} ${count === 1 ? 'part' : 'parts'}, the largest ${largest} (${share} %).`,
    scatter: (head, count, names) => `${head}: ${count} ${count === 1 ? 'point' : 'points'} of ${names}.`,
    plain: (head, names, count, running, { first, last, high, low }) =>
      `${head} of ${names} by ${count} ${count === 1 ? 'category' : 'categories'}${
        running ? ', in falling order with their running share' : ''
      }, from ${first} to ${last}; highest ${high}, lowest ${low}.`,
  },
  pt: {
    forms: {
      bars: 'barras lado a lado',
      stacked: 'barras empilhadas',
      shares: 'barras até 100 %',
      lines: 'linhas',
      areas: 'áreas',
      points: 'pontos',
      pie: 'gráfico circular',
      ring: 'anel',
      steps: 'degraus',
      falling: 'barras por ordem decrescente',
    },
    chart: 'Gráfico',
    empty: title => (title ? `${title}: nada para desenhar.` : 'Um gráfico sem valores.'),
    steps: (head, from, to, count) => `${head}: de ${from} a ${to} em ${count} ${count === 1 ? 'passo' : 'passos'}.`,
    parts: (head, count, largest, share) => `${head}: ${count} ${count === 1 ? 'parte' : 'partes'}, a maior ${largest} (${share} %).`,
    scatter: (head, count, names) => `${head}: ${count} ${count === 1 ? 'ponto' : 'pontos'} de ${names}.`,
    plain: (head, names, count, running, { first, last, high, low }) =>
      `${head} de ${names} por ${count} ${count === 1 ? 'categoria' : 'categorias'}${
        running ? ', por ordem decrescente com a parte acumulada' : ''
      }, de ${first} a ${last}; máximo ${high}, mínimo ${low}.`,
  },
  nb: {
    forms: {
      bars: 'søyler side om side',
      stacked: 'søyler oppå hverandre',
      shares: 'søyler til 100 %',
      lines: 'linjer',
      areas: 'flater',
      points: 'punkter',
      pie: 'kakediagram',
      ring: 'ring',
      steps: 'trinn',
      falling: 'søyler i fallende rekkefølge',
    },
    chart: 'Diagram',
    empty: title => (title ? `${title}: ingenting å tegne.` : 'Et diagram uten tall.'),
    steps: (head, from, to, count) => `${head}: fra ${from} til ${to} i ${count} trinn.`,
    parts: (head, count, largest, share) => `${head}: ${count} ${count === 1 ? 'del' : 'deler'}, den største ${largest} (${share} %).`,
    scatter: (head, count, names) => `${head}: ${count} ${count === 1 ? 'punkt' : 'punkter'} av ${names}.`,
    plain: (head, names, count, running, { first, last, high, low }) =>
      `${head} av ${names} etter ${count} ${count === 1 ? 'kategori' : 'kategorier'}${
        running ? ', i fallende rekkefølge med løpende andel' : ''
      }, fra ${first} til ${last}; høyest ${high}, lavest ${low}.`,
  },
}

/** A text that says what a chart shows, for those who do not see it, in the language of the page as far as it is known. */
export function alternativeOf(data: ChartData, title: string | undefined, form: ChartForm, language: string): string {
  const say = sentences[language.split('-')[0]!] ?? sentences.en!
  const { categories, series, steps, round, runningShare, scatter } = data
  const [first] = series
  if (!first || !categories.length) return say.empty(title)
  let [high, low] = [-1, -1]
  let whole = 0
  first.values.forEach((value, at) => {
    if (value === null) return
    whole += value
    if (high < 0 || value > first.values[high]!) high = at
    if (low < 0 || value < first.values[low]!) low = at
  })
  const names = series
    .slice(0, 6)
    .map(each => each.name)
    .filter(Boolean)
    .join(', ')
  const told = (at: number) => `${categories[at] ?? ''} ${first.printed[at] ?? ''}`.trim()
  const head = `${title ?? say.chart}, ${say.forms[form]}`
  if (steps) return say.steps(head, told(0), told(categories.length - 1), categories.length - 2)
  if (round) return say.parts(head, categories.length, told(high), Math.round(percentOf(first.values[high] ?? 0, whole)))
  if (scatter) return say.scatter(head, categories.length, names)
  const ends = { first: categories[0]!, last: categories.at(-1)!, high: told(high), low: told(low) }
  return say.plain(head, names, categories.length, !!runningShare, ends)
}
