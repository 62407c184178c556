/** An element of XML: its name, its attributes, and what is in it. Elements without anything are left out where they are made by `some`. */
export interface Xml {
  name: string
  attributes?: Readonly<Record<string, string>>
  /** text, or elements in their order; what is absent is left out */
  inside: string | readonly (Xml | undefined)[]
}

export const xml = (name: string, inside: Xml['inside'], attributes?: Xml['attributes']): Xml => ({
  name,
  inside,
  ...(attributes ? { attributes } : {}),
})

/** An element of a text; nothing where there is none. */
export const said = (name: string, text: string | undefined, attributes?: Xml['attributes']): Xml | undefined =>
  text === undefined || text === '' ? undefined : xml(name, text, attributes)

/** An element of elements; nothing where none of them is there. */
export const some = (name: string, inside: readonly (Xml | undefined)[]): Xml | undefined =>
  inside.some(Boolean) ? xml(name, inside) : undefined

/** Characters that XML 1.0 (section 2.2) does not know, in no way of writing: controls, halves of pairs, and two that are no characters. */
const unknown = /[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\u{10000}-\u{10ffff}]/gu

const escaped = (text: string): string =>
  text
    .replace(unknown, '\ufffd')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll('\r', '&#13;')

/** A document with its declaration, an element a line. */
export function xmlText(root: Xml): string {
  const lines: string[] = ['<?xml version="1.0" encoding="UTF-8"?>']
  const put = ({ name, attributes, inside }: Xml, indent: string): void => {
    const own = Object.entries(attributes ?? {}).map(([key, value]) => ` ${key}="${escaped(value).replaceAll('\n', '&#10;')}"`)
    const begin = `${indent}<${name}${own.join('')}`
    if (typeof inside === 'string') lines.push(`${begin}>${escaped(inside)}</${name}>`)
    else {
      lines.push(`${begin}>`)
      for (const each of inside) if (each) put(each, `${indent}  `)
      lines.push(`${indent}</${name}>`)
    }
  }
  put(root, '')
  return `${lines.join('\n')}\n`
}
