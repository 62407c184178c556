// @vitest-environment happy-dom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import '../../tests/appWords'
import { dayWords, exactWords, minuteWords, momentWords, recentWords } from './moments'
import { counted } from './cells'
import { firstLanguage, grouped, locale, speak, spoken, t, tell } from './words'

const asked = (...languages: string[]) => vi.spyOn(navigator, 'languages', 'get').mockReturnValue(languages)
beforeEach(() => localStorage.clear())
afterEach(async () => {
  vi.restoreAllMocks()
  vi.useRealTimers()
  await speak('en')
})

describe('the language to begin with', () => {
  it('is what was spoken here last, else the first that the browser asks for and that there is', async () => {
    asked('de-DE', 'pt-BR', 'en')
    expect(firstLanguage()).toBe('pt')
    asked('nb')
    expect(firstLanguage()).toBe('en')
    await speak('pt')
    expect(firstLanguage()).toBe('pt')
    localStorage.setItem('estante language', 'constructor')
    expect(firstLanguage()).toBe('en')
  })
  it('says whether another was spoken before, and is that of the page', async () => {
    expect([await speak('pt'), await speak('pt'), await speak('en')]).toEqual([true, false, true])
    await speak('pt')
    expect([spoken.value, locale(), document.documentElement.lang]).toEqual(['pt', 'pt-PT', 'pt'])
    expect([t('common.cancel'), tell('The request brings nothing; send what it asks for as JSON.')]).toEqual([
      'Cancelar',
      'O pedido não traz nada; envie o que pede como JSON.',
    ])
    await speak('en')
    expect([t('common.cancel'), tell('Nothing was taken in')]).toEqual(['Cancel', 'Nothing was taken in'])
  })
})

describe('counts and moments', () => {
  // written out, as people of each language write them
  const at = '2026-10-05T08:07:09'
  it.each([
    ['en', ['1,234', '54,548', '1,234 lines', '5 Oct 2026', '5 Oct 2026, 08:07', '5 Oct 2026, 08:07:09', '5 Oct, 08:07']],
    ['pt', ['1234', '54 548', '1234 lines', '05/10/2026', '05/10/2026, 08:07', '05/10/2026, 08:07:09', '5/10, 08:07']],
  ] as const)('are written as in %s', async (tag, written) => {
    await speak(tag)
    const found = [grouped(1234), grouped(54548), counted(1234, 'Lines'), dayWords(at), minuteWords(at), exactWords(at), recentWords(at)]
    expect(found.map(text => text.replaceAll('\u00a0', ' ').replaceAll(' às ', ', '))).toEqual(written)
  })
  it('of today leave their day out', () => {
    vi.useFakeTimers({ now: new Date('2026-10-05T20:00:00') })
    expect([momentWords(at), momentWords('2026-10-04T23:59:00')]).toEqual(['08:07', '4 Oct 2026, 23:59'])
  })
})
