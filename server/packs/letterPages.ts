import { escapedHtml } from '../runs/formats/html'

/** The most that a letter carries as HTML, in bytes: mail programs cut longer ones off. */
const most = 1_000_000

/** Why pages of so many bytes do not stand in a letter; nothing where they do. */
export const tooLarge = (bytes: number): string | undefined =>
  bytes > most
    ? `Its pages are ${(bytes / 1e6).toFixed(1)} MB as HTML, more than the ${most / 1e6} MB that stand in a letter; ` +
      'sent again, it goes without them.'
    : undefined

const body = /<body[^>]*>/

/** Whole HTML pages as one, each under its title. */
export function joinedPages(title: string, parts: readonly { title: string; html: string }[]): string {
  const [first] = parts
  if (!first) return ''
  const begun = body.exec(first.html)!
  const inner = (html: string) => html.slice(html.search(body) + body.exec(html)![0].length, html.lastIndexOf('</body>'))
  const head = first.html.slice(0, begun.index).replace(/<title>.*?<\/title>/s, () => `<title>${escapedHtml(title)}</title>`)
  const texts = parts.map(each => `<h2 style="font-size:14pt">${escapedHtml(each.title)}</h2>${inner(each.html)}`)
  return `${head}${begun[0]}${texts.join('\n')}</body>\n</html>\n`
}

/** An HTML page with the text of a letter before what it shows. */
export function withText(html: string, text: string): string {
  if (!text.trim()) return html
  const begun = body.exec(html)!
  const after = begun.index + begun[0].length
  return `${html.slice(0, after)}<p style="white-space:pre-wrap;font-size:11pt">${escapedHtml(text)}</p>${html.slice(after)}`
}
