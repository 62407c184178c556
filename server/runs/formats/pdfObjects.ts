import { deflateSync } from 'node:zlib'
import { ByteText } from './byteText'

/** The parts of PDFKit's document that its objects are written through. */
export interface ObjectBook {
  ref: (data?: object) => PdfRef
  _offsets: (number | null)[]
  _offset: number
  _write: (data: string | Uint8Array) => void
  _finalize: () => void
  push: (data: null) => void
  _root: { data: Record<string, unknown>; toString: () => string }
  _info: { toString: () => string }
  _id: Uint8Array
}

export interface PdfRef {
  id: number
  data: Record<string, unknown>
  write: (chunk: Uint8Array) => void
  end: (chunk?: Uint8Array) => void
  toString: () => string
}

/** Something that stands in an object of PDFKit's as it is. */
export class Raw {
  constructor(private readonly text: string) {}

  get [Symbol.toStringTag](): string {
    return 'Raw'
  }

  toString(): string {
    return this.text
  }

  /** PDFKit ends what it holds; this is written with what it stands in. */
  end(): void {}
}

/** How hard streams are packed: level 3 takes half the time of the usual 6, for files that are some percent larger. */
export const packing = 3
/** What is the same again and again packs no better at higher levels, only slower. */
const structurePacking = 2

/** An object as a stream of PDFKit's, packed by us. */
export function writeStream(book: ObjectBook, data: Record<string, unknown>, bytes: Uint8Array, level = packing): PdfRef {
  const ref = book.ref({ ...data, Filter: 'FlateDecode' })
  ref.end(deflateSync(bytes, { level }))
  return ref
}

/**
 * Small objects, many to a stream, and the table of all objects as a stream (ISO 32000-1, 7.5.7 and 7.5.8): a tagged file has an object
 * for each cell, which PDFKit's own way would write one by one.
 */
export class PackedObjects {
  /** of objects in streams, by their numbers: which stream (0 for none), and their place in it; there may be a million of them */
  private streams = new Uint32Array(1 << 12)
  private indexes = new Uint16Array(1 << 12)
  private readonly places = new ByteText()
  private readonly body = new ByteText()
  private waiting: number[] = []

  constructor(private readonly book: ObjectBook) {
    book._finalize = () => this.finalize()
  }

  /** The number of an object that is written later. */
  next(): number {
    return this.book._offsets.push(-1)
  }

  /** An object begins in the next stream: its text is written behind that of the one before. */
  begin(id: number): ByteText {
    // their places are told in two bytes
    if (this.waiting.length > 60_000) this.flush()
    if (this.waiting.length) {
      this.places.text(' ')
      this.body.text('\n')
    }
    this.places.number(id).text(' ').number(this.body.length)
    this.waiting.push(id)
    return this.body
  }

  /** An object's text; it goes into the next stream. */
  put(id: number, text: string): number {
    this.begin(id).text(text)
    return id
  }

  /** Writes what is waiting. */
  flush(): void {
    if (!this.waiting.length) return
    const head = this.places.text('\n').written
    const data = { Type: 'ObjStm', N: this.waiting.length, First: head.length }
    const { id: stream } = writeStream(this.book, data, Buffer.concat([head, this.body.text('\n').written]), structurePacking)
    this.room(this.book._offsets.length + 1)
    this.waiting.forEach((id, index) => {
      this.streams[id] = stream
      this.indexes[id] = index
    })
    this.waiting = []
    this.places.clear()
    this.body.clear()
  }

  private room(count: number): void {
    if (count <= this.streams.length) return
    const size = Math.max(count, Math.ceil(this.streams.length * 1.5))
    const [streams, indexes] = [new Uint32Array(size), new Uint16Array(size)]
    streams.set(this.streams)
    indexes.set(this.indexes)
    ;[this.streams, this.indexes] = [streams, indexes]
  }

  private finalize(): void {
    const { book } = this
    const own = book._offsets.length + 1
    const size = own + 1
    const rows = Buffer.alloc(size * 8)
    const row = (id: number, kind: number, place: number, index: number) => {
      rows.writeUInt8(kind, id * 8)
      rows.writeUIntBE(place, id * 8 + 1, 5)
      rows.writeUInt16BE(index, id * 8 + 6)
    }
    row(0, 0, 0, 65_535)
    book._offsets.forEach((offset, at) => {
      const id = at + 1
      const stream = this.streams[id] ?? 0
      if (!stream) row(id, 1, offset!, 0)
      else row(id, 2, stream, this.indexes[id]!)
    })
    const start = book._offset
    row(own, 1, start, 0)
    const packed = deflateSync(rows, { level: packing })
    const id = Buffer.from(book._id).toString('hex')
    book._write(`${own} 0 obj`)
    book._write(
      `<< /Type /XRef /Size ${size} /W [1 5 2] /Root ${book._root} /Info ${book._info} /ID [<${id}> <${id}>] /Filter /FlateDecode ` +
        `/Length ${packed.length} >>`,
    )
    book._write('stream')
    book._write(packed)
    book._write('\nendstream')
    book._write('endobj')
    book._write('startxref')
    book._write(String(start))
    book._write('%%EOF')
    book.push(null)
  }
}
