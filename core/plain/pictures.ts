import { TextError, type TextFiles } from './text'

/*
 * Pictures of definitions lie in files beside them: as text within one they could not be looked at, nor compared.
 */

/** Texts shorter than this stay where they are. */
const least = 80
const mark = 'file:'
/** What begins as an address of ours by itself is told apart by another mark. */
const literal = 'file:='

const encoder = new TextEncoder()
const decoder = new TextDecoder('utf-8', { ignoreBOM: true })
const dataAddress = /^data:image\/(png|jpeg);base64,([A-Za-z0-9+/]+={0,2})$/

/** A short name for bytes that is theirs alone, by the FNV-1a hash of 64 bits in two halves. */
function hashOf(bytes: Uint8Array): string {
  let hash = 0xcbf29ce484222325n
  for (const byte of bytes) hash = ((hash ^ BigInt(byte)) * 0x100000001b3n) & 0xffffffffffffffffn
  return hash.toString(16).padStart(16, '0')
}

function bytesOf(base64: string): Uint8Array {
  const text = atob(base64)
  return Uint8Array.from(text, each => each.charCodeAt(0))
}
function base64Of(bytes: Uint8Array): string {
  let text = ''
  for (const byte of bytes) text += String.fromCharCode(byte)
  return btoa(text)
}

function walk(value: unknown, change: (text: string) => string): unknown {
  if (typeof value === 'string') return change(value)
  if (Array.isArray(value)) return value.map(each => walk(each, change))
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([name, each]) => [name, walk(each, change)]))
}

/** The value with each picture in it replaced by the name of its file, which goes into `files` under `folder`. */
export function withoutPictures(value: unknown, folder: string, files: TextFiles): unknown {
  return walk(value, text => {
    if (text.startsWith(mark)) return literal + text.slice(mark.length)
    if (text.length < least) return text
    const address = dataAddress.exec(text)
    const bytes = address ? bytesOf(address[2]!) : /^\s*<svg[\s>]/.test(text) ? encoder.encode(text) : undefined
    // what would not come back as it was stays
    if (!bytes || (address && base64Of(bytes) !== address[2])) return text
    const name = `${hashOf(bytes)}.${address ? address[1]!.replace('jpeg', 'jpg') : 'svg'}`
    const path = `${folder}${name}`
    const taken = files.get(path)
    if (taken && (taken.length !== bytes.length || taken.some((byte, at) => byte !== bytes[at]))) return text
    files.set(path, bytes)
    return `${mark}${name}`
  })
}

/** The value with its pictures again. @throws TextError where a file is not there */
export function withPictures(value: unknown, folder: string, files: TextFiles, path: string): unknown {
  return walk(value, text => {
    if (text.startsWith(literal)) return mark + text.slice(literal.length)
    if (!text.startsWith(mark)) return text
    const name = text.slice(mark.length)
    const bytes = files.get(`${folder}${name}`)
    if (!bytes) throw new TextError(`${path} names the picture ${name}, which is not in ${folder}; put it there.`)
    const kind = /\.(png|jpg)$/.exec(name)?.[1]
    return kind ? `data:image/${kind.replace('jpg', 'jpeg')};base64,${base64Of(bytes)}` : decoder.decode(bytes)
  })
}
