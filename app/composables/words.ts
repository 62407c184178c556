import { computed } from 'vue'
import { createI18n } from 'vue-i18n'
import { type Language, languageTags } from '../../core/api/people'
import type english from '../i18n/en.json'
import { Phrases } from '../i18n/phrases'

type Leaves<Texts> = { [Part in keyof Texts & string]: `${Part}.${keyof Texts[Part] & string}` }[keyof Texts & string]
/** The name of a text of the interface: where it stands, and what it says in English. */
export type TextKey = Leaves<typeof english>

/** A language of the interface. */
interface Spoken {
  /** as it calls itself */
  name: string
  /** as dates and numbers are written in it: an Intl locale */
  locale: string
  /** texts of the screens by their names */
  texts: () => Promise<{ default: object }>
  /** phrases of core and server by what they are in English; none in English */
  said?: () => Promise<{ default: { phrases: Record<string, string>; words: Record<string, string> } }>
}
export const languages: Record<Language, Spoken> = {
  en: { name: 'English', locale: 'en-GB', texts: () => import('../i18n/en.json') },
  pt: { name: 'Português', locale: 'pt-PT', texts: () => import('../i18n/pt.json'), said: () => import('../i18n/said.pt.json') },
}
const isLanguage = (tag: unknown): tag is Language => languageTags.includes(tag as never)
const texts = createI18n({
  legacy: false,
  locale: '',
  fallbackLocale: false as never,
  messages: {},
  missingWarn: false,
  fallbackWarn: false,
})

/** Texts without values, as they are said now: screens say the same ones at every key. */
const plain = new Map<string, string>()

/** The text of a name, with what is put into it; of forms apart by a count, the one of that count. */
export function t(key: TextKey, values?: Record<string, unknown> | number, count?: number): string {
  const { t: text, locale: current } = texts.global
  if (values === undefined) {
    // whoever reads it hears of another language
    const known = current.value && plain.get(key)
    if (known !== undefined && known !== '') return known
    const said = text(key)
    plain.set(key, said)
    return said
  }
  if (typeof values === 'number') return text(key, values)
  return count === undefined ? text(key, values) : text(key, values, count)
}

let phrases: Phrases | undefined
/** What core or server have said in English, in the language that is spoken: a sentence, or the name of one of their kinds. */
export const tell = (text: string): string => phrases?.say(text) ?? text

/** The language that is spoken now. */
export const spoken = computed(() => texts.global.locale.value as Language)
/** How dates and numbers are written in it: an Intl locale. */
export const locale = (): string => languages[spoken.value].locale
/** A count with its thousands apart. */
export function grouped(count: number): string {
  const tag = locale()
  let format = formats.get(tag)
  if (!format) formats.set(tag, (format = new Intl.NumberFormat(tag)))
  return format.format(count)
}
const formats = new Map<string, Intl.NumberFormat>()

const kept = 'estante language'
/** The language to begin with: what was spoken here last, or the first one that the browser asks for. */
export function firstLanguage(): Language {
  const last = localStorage.getItem(kept)
  const asked = navigator.languages.map(each => each.slice(0, 2)).find(isLanguage)
  return isLanguage(last) ? last : (asked ?? 'en')
}

/** Speaks a language from now on, on this machine; true where another was spoken, and texts of that one may stand on the page. */
export async function speak(tag: Language): Promise<boolean> {
  const before = spoken.value as string
  if (tag === before) return false
  const [own, others] = await Promise.all([languages[tag].texts(), languages[tag].said?.()])
  texts.global.setLocaleMessage(tag, own.default as never)
  plain.clear()
  phrases = others && new Phrases(others.default.phrases, others.default.words, grouped)
  texts.global.locale.value = tag as never
  document.documentElement.lang = tag
  localStorage.setItem(kept, tag)
  return before !== ''
}
