import type { ByteText } from './byteText'
import { isCellTag, type Tag, type TagRole, tagRoles } from '../../../core/compose/tags'
import { type ObjectBook, type PackedObjects, Raw } from './pdfObjects'

/** Roles as ISO 32000-1 (14.8.4) names them. */
const structures: Readonly<Record<TagRole, string>> = { paragraph: 'P', heading: 'H1', columnHead: 'TH', rowHead: 'TH', cell: 'TD' }
export const structureOf = (tag: Tag): string => structures[tagRoles[tag[2]]!]

/** A text as a PDF says it: UTF-16 with its mark, in hexadecimal digits. */
export const utf16 = (text: string) => `<feff${Buffer.from(text, 'utf16le').swap16().toString('hex')}>`

/** Something read on a page, in its order: a tagged stretch or a picture, with the marked content that it is. */
export type ReadPart = { mark: number; links: readonly { id: number; text: string }[] } & (
  { tag: Tag } | { alternative: string; box: readonly [number, number, number, number] }
)

interface Open {
  id: number
  kids: number[]
}

/**
 * The structure of a tagged PDF (ISO 32000-1, 14.7), written while pages are: sections of documents, tables with a body on each page, rows,
 * cells, texts and pictures. Memory holds what is open, and a number for each page.
 */
export class PdfTags {
  private readonly root: number
  private readonly whole: Open
  /** by key of the parent tree: the object that says what marked content or an annotation belongs to */
  private readonly parents: number[] = []
  private section: Open | undefined
  private sectionText = ''
  private table: (Open & { number: number; parent: number }) | undefined

  constructor(
    private readonly objects: PackedObjects,
    private readonly book: ObjectBook,
    private readonly language: string,
  ) {
    this.root = objects.next()
    this.whole = { id: objects.next(), kids: [] }
  }

  /** A document begins: what comes is read as a part of its own, in its language. */
  begin(title: string | undefined, language: string | undefined): void {
    this.endSection()
    this.section = { id: this.objects.next(), kids: [] }
    this.sectionText = `${title ? `/T ${utf16(title)}` : ''}${language && language !== this.language ? `/Lang (${plain(language)})` : ''}`
    this.whole.kids.push(this.section.id)
  }

  /** The key of a page or an annotation in the parent tree. */
  key(): number {
    return this.parents.push(0) - 1
  }

  /** What is read on a page. `page` is its object, `key` that of its parent tree. */
  add(page: number, key: number, parts: readonly ReadPart[]): void {
    const { objects } = this
    const owners: number[] = []
    let body: Open | undefined
    let row: (Open & { number: number; next: number; columns: number }) | undefined
    const endRow = () => {
      if (!row || !body) return
      pad(row, row.columns)
      refs(objects.begin(row.id).text('<</S/TR/P ').number(body.id).text(' 0 R/K['), row.kids).text(']>>')
      row = undefined
    }
    const pad = (own: NonNullable<typeof row>, to: number) => {
      const missing = to - own.next
      if (missing <= 0) return
      const id = objects.next()
      own.kids.push(objects.put(id, `<</S/TD/P ${own.id} 0 R${missing > 1 ? `/A<</O/Table/ColSpan ${missing}>>` : ''}>>`))
      own.next = to
    }
    const endBody = () => {
      endRow()
      if (body && this.table)
        refs(objects.begin(body.id).text('<</S/TBody/P ').number(this.table.id).text(' 0 R/K['), body.kids).text(']>>')
      body = undefined
    }
    for (const part of parts) {
      const id = objects.next()
      owners[part.mark] = id
      for (const link of part.links) objects.put(link.id, link.text.replace('PARENT', `${id} 0 R`))
      if ('tag' in part && isCellTag(part.tag)) {
        const { tag } = part
        const [role, number, at, column, span] = [tag[2], tag[3], tag[4], tag[5], tag[6]]
        if (this.table?.number !== number) {
          endBody()
          this.endTable()
          this.table = { id: objects.next(), kids: [], number, parent: this.parent().id }
          this.parent().kids.push(this.table.id)
        }
        if (!body) this.table.kids.push((body = { id: objects.next(), kids: [] }).id)
        if (row?.number !== at) {
          endRow()
          row = { id: objects.next(), kids: [], number: at, next: 0, columns: tag[7] }
          body.kids.push(row.id)
        }
        pad(row, column)
        row.next = column + span
        row.kids.push(id)
        const text = objects
          .begin(id)
          .text(role === 4 ? '<</S/TD/P ' : '<</S/TH/P ')
          .number(row.id)
          .text(' 0 R/Pg ')
          .number(page)
        kids(text.text(' 0 R/K '), part)
        if (role !== 4 || span > 1) {
          text.text(role === 2 ? '/A<</O/Table/Scope/Column' : role === 3 ? '/A<</O/Table/Scope/Row' : '/A<</O/Table')
          if (span > 1) text.text('/ColSpan ').number(span)
          text.text('>>')
        }
        text.text('>>')
        continue
      }
      endBody()
      this.endTable()
      const parent = this.parent()
      parent.kids.push(id)
      const what =
        'tag' in part ? structureOf(part.tag) : `Figure/Alt ${utf16(part.alternative)}/A<</O/Layout/BBox[${part.box.join(' ')}]>>`
      kids(objects.begin(id).text(`<</S/${what}/P ${parent.id} 0 R/Pg ${page} 0 R/K `), part).text('>>')
    }
    endBody()
    const list = (this.parents[key] = objects.next())
    refs(objects.begin(list).text('['), owners).text(']')
    objects.flush()
  }

  /** A link that stands within what is read: the element that it is, with the annotation that leads there. */
  link(annotation: number, key: number, page: number): { id: number; text: string } {
    const id = this.objects.next()
    this.parents[key] = id
    return { id, text: `<</S/Link/P PARENT/Pg ${page} 0 R/K<</Type/OBJR/Obj ${annotation} 0 R/Pg ${page} 0 R>>>>` }
  }

  /** Writes what is open, and what the file's catalog says of it all. */
  end(): void {
    this.endSection()
    const { objects, book } = this
    refs(objects.begin(this.whole.id).text(`<</S/Document/P ${this.root} 0 R/K[`), this.whole.kids).text(']>>')
    const tree = objects.put(objects.next(), `<</Nums[${this.parents.map((id, key) => `${key} ${id} 0 R`).join(' ')}]>>`)
    const { root, whole, parents } = this
    objects.put(root, `<</Type/StructTreeRoot/K ${whole.id} 0 R/ParentTree ${tree} 0 R/ParentTreeNextKey ${parents.length}>>`)
    objects.flush()
    Object.assign(book._root.data, {
      StructTreeRoot: new Raw(`${root} 0 R`),
      MarkInfo: new Raw('<</Marked true>>'),
      Lang: new Raw(`(${plain(this.language)})`),
      ViewerPreferences: undefined,
    })
  }

  private parent(): Open {
    return this.section ?? this.whole
  }

  private endTable(): void {
    const { table, objects } = this
    if (table) refs(objects.begin(table.id).text(`<</S/Table/P ${table.parent} 0 R/K[`), table.kids).text(']>>')
    this.table = undefined
  }

  private endSection(): void {
    this.endTable()
    const { section, objects } = this
    if (section) refs(objects.begin(section.id).text(`<</S/Sect/P ${this.whole.id} 0 R${this.sectionText}/K[`), section.kids).text(']>>')
    this.section = undefined
  }
}

/** Objects, one after the other. */
function refs(text: ByteText, ids: readonly number[]): ByteText {
  for (let at = 0; at < ids.length; at++) (at ? text.text(' ') : text).number(ids[at]!).text(' 0 R')
  return text
}

/** What an element consists of: its mark, and links within it. */
function kids(text: ByteText, { mark, links }: ReadPart): ByteText {
  if (!links.length) return text.number(mark)
  return refs(
    text.text('[').number(mark).text(' '),
    links.map(each => each.id),
  ).text(']')
}

/** A language tag as it can stand in a PDF's text. */
const plain = (language: string): string => language.replace(/[^A-Za-z0-9-]/g, '')
