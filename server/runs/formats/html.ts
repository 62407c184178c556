import type { Writable } from 'node:stream'
import type { GridCell, GridColumns, GridEvent, GridRow } from '../../../core/compose/gridRows'
import { pictureSvg } from '../../../core/draw/svg'
import { put } from '../outFile'

/** Text as it stands in HTML. */
export const escapedHtml = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')
const thickness: Record<string, string> = {
  hair: '1px solid #d9d2c7',
  thin: '1px solid #26221d',
  thick: '2px solid #26221d',
  double: '3px double #26221d',
}

/**
 * Rows of a layout as one HTML page that a mail can carry: tables with their styles written at each cell, no script, no style sheet,
 * nothing loaded from elsewhere.
 */
export class HtmlWriter {
  private open = false
  constructor(
    private readonly out: Writable,
    private readonly title: string,
    private readonly language: string,
    private readonly columns: GridColumns,
  ) {}

  async add(event: GridEvent): Promise<void> {
    if (!this.open) await this.begin()
    if ('document' in event) await put(this.out, `</table>\n${this.table()}`)
    else if ('row' in event) await put(this.out, this.row(event.row))
    else if ('picture' in event) {
      const { items, width, height, alternative } = event.picture
      const picture = pictureSvg(items, width, height, alternative)
      await put(this.out, `<tr><td colspan="${this.columns.x.length}">${picture}</td></tr>\n`)
    }
  }

  async end(): Promise<void> {
    if (!this.open) await this.begin()
    await put(this.out, '</table>\n</body>\n</html>\n')
  }

  private async begin(): Promise<void> {
    this.open = true
    await put(
      this.out,
      `<!doctype html>\n<html lang="${escapedHtml(this.language)}">\n<head><meta ` +
        `charset="utf-8"><title>${escapedHtml(this.title)}</title></head>\n<body style="margin:16px;font-family:'Noto ` +
        `Sans',Arial,sans-serif">\n${this.table()}`,
    )
  }

  private table(): string {
    const columns = this.columns.width.map(width => `<col style="width:${Math.round((width * 4) / 3)}px">`).join('')
    return `<table style="border-collapse:collapse;margin-bottom:24px"><colgroup>${columns}</colgroup>\n`
  }

  /** An empty place is taken by the text before it, as on the page. */
  private row(row: GridRow): string {
    const count = this.columns.x.length
    const cells = [...row.cells].sort((a, b) => a.column - b.column)
    const frame = [
      row.fill ? `background:${row.fill}` : '',
      row.above ? `border-top:${thickness[row.above]}` : '',
      row.below ? `border-bottom:${thickness[row.below]}` : '',
    ]
      .filter(Boolean)
      .join(';')
    if (!cells.length) return `<tr style="${frame}"><td colspan="${count}" style="height:10px"></td></tr>\n`
    let out = `<tr${frame ? ` style="${frame}"` : ''}>`
    let at = 0
    cells.forEach((cell, index) => {
      // one that is aligned right takes the empty places before it, others those after
      const right = cell.style.align === 'right'
      const start = right && index === 0 ? 0 : Math.max(at, cell.column)
      if (start > at) out += `<td colspan="${start - at}"></td>`
      const next = cells[index + 1]
      const end = right
        ? cell.column + 1
        : next
          ? next.style.align === 'right'
            ? Math.max(cell.column + 1, next.column)
            : next.column
          : count
      const span = Math.max(1, end - start)
      // titles say of which columns they are, and of which row
      const scope = row.kind === 'titles' ? ((cell.span ?? 1) > 1 ? 'colgroup' : 'col') : cell.heads ? 'row' : undefined
      const [tag, said] = scope && cell.text ? ['th', ` scope="${scope}"`] : ['td', '']
      const plain = tag === 'th' && !/Bold/.test(cell.style.font) ? ';font-weight:normal' : ''
      const spans = span > 1 ? ` colspan="${span}"` : ''
      out += `<${tag}${said}${spans} style="${cellStyle(cell)}${plain}">${escapedHtml(cell.text).replaceAll('\n', '<br>')}</${tag}>`
      at = start + span
    })
    return `${out}${at < count ? `<td colspan="${count - at}"></td>` : ''}</tr>\n`
  }
}

function cellStyle({ style }: GridCell): string {
  return [
    'padding:2px 6px',
    'vertical-align:top',
    `font-size:${style.size}pt`,
    `color:${style.colour}`,
    `text-align:${style.align === 'centre' ? 'center' : style.align}`,
    ...(/Bold/.test(style.font) ? ['font-weight:bold'] : []),
    ...(/Italic/.test(style.font) ? ['font-style:italic'] : []),
    ...(style.font.startsWith('serif') ? ['font-family:Georgia,serif'] : []),
    ...(style.fill ? [`background:${style.fill}`] : []),
    ...(style.align === 'right' ? ['white-space:nowrap'] : []),
    ...(style.indent ? [`padding-left:${Math.round((style.indent * 4) / 3) + 6}px`] : []),
  ].join(';')
}
