import { type AccountNature, accountNatures } from '../books/ledger'

/** An account as a statement knows it. */
export interface Account {
  code: string
  name: string
  nature: AccountNature | undefined
  class: string
  /** codes of the accounts that it stands under in a tree of accounts, the nearest first */
  under?: readonly string[]
}

/** A choice of accounts that cannot be read: one sentence, with offsets in its text. */
export class AccountsError extends Error {
  constructor(
    message: string,
    readonly from: number,
    readonly to: number,
  ) {
    super(message)
  }
}

type Test = (account: Account) => boolean

const words = /\s*(?:("(?:[^"]|"")*")|(\.\.)|(,)|([^\s,".]+(?:\.[^\s,".]+)*))/gy

/**
 * Reads a choice of accounts as people write it: codes and ranges (`4010, 4100..4499`), codes that begin alike (`61*`), `under 6100`
 * (all that stands under it in a tree of accounts, and itself), `class "Sales"`, `type income`, `all`, and after `except` what is
 * taken out again. Codes compare as text, so a range holds longer codes that begin like its end.
 * @throws AccountsError
 */
export function readAccounts(text: string): Test {
  const tokens = tokensOf(text)
  let at = 0
  const chosen: Test[] = []
  const left: Test[] = []
  let list = chosen
  const fail = (message: string, token = tokens[at]): never => {
    throw new AccountsError(message, token?.from ?? text.length, token?.to ?? text.length)
  }
  if (!tokens.length) return fail('Say which accounts: codes and ranges such as 4000..4499, 61*, under 6100, class "Sales" or type income.')
  while (at < tokens.length) {
    const token = tokens[at]!
    if (token.text === ',') {
      at++
      continue
    }
    if (token.text === 'except' && !token.quoted) {
      if (list === left) fail('“except” stands once, before all that is taken out.')
      list = left
      at++
      if (at >= tokens.length) fail('After “except” come the accounts that are taken out.')
      continue
    }
    list.push(item())
  }
  if (!chosen.length) fail('Before “except” come the accounts that it takes from; write all for every account.', tokens[0])
  return account => chosen.some(test => test(account)) && !left.some(test => test(account))

  function item(): Test {
    const token = tokens[at++]!
    if (!token.quoted && token.text === 'all') return () => true
    if (!token.quoted && (token.text === 'class' || token.text === 'type')) {
      const value = tokens[at]
      if (!value || value.text === ',')
        return fail(
          token.text === 'class' ? 'A class follows, such as class "Current assets".' : `A type follows: ${accountNatures.join(', ')}.`,
        )
      at++
      if (token.text === 'class') return account => account.class.toLowerCase() === value.text.toLowerCase()
      const nature = accountNatures.find(each => each === value.text.toLowerCase())
      return nature
        ? account => account.nature === nature
        : fail(`There is no type “${value.text}”; there are ${accountNatures.join(', ')}.`, value)
    }
    if (!token.quoted && token.text === 'under') {
      const value = tokens[at]
      if (!value || value.text === ',') return fail('A code follows: under 6100 takes all accounts that stand under it.')
      at++
      return account => account.code === value.text || !!account.under?.includes(value.text)
    }
    if (token.text === '..') return fail('A range has a code before and after it, such as 4000..4499.', token)
    if (tokens[at]?.text === '..' && !tokens[at]!.quoted) {
      at++
      const end = tokens[at]
      if (!end || end.text === ',') return fail('A range has a code at its end too, such as 4000..4499.')
      at++
      if (end.text < token.text) return fail(`A range begins with the lower code: ${end.text}..${token.text}.`, token)
      return ({ code }) => code >= token.text && (code <= end.text || code.startsWith(end.text))
    }
    if (!token.quoted && token.text.endsWith('*')) {
      const start = token.text.slice(0, -1)
      return ({ code }) => code.startsWith(start)
    }
    return ({ code }) => code === token.text
  }
}

function tokensOf(text: string): { text: string; quoted: boolean; from: number; to: number }[] {
  const found: ReturnType<typeof tokensOf> = []
  words.lastIndex = 0
  while (words.lastIndex < text.trimEnd().length) {
    const begin = words.lastIndex
    const match = words.exec(text)
    if (!match)
      throw new AccountsError('This cannot be read as accounts; a text with a quotation mark has one at its end too.', begin, text.length)
    const word = match[1] ?? match[2] ?? match[3] ?? match[4]!
    const from = words.lastIndex - word.length
    found.push({ text: match[1] ? word.slice(1, -1).replaceAll('""', '"') : word, quoted: !!match[1], from, to: words.lastIndex })
  }
  return found
}
