import { type Picture, PictureError, readSvg } from './svgShapes'

/** A PNG or JPEG as a data address, with its size in pixels. */
export interface Bitmap {
  width: number
  height: number
  data: string
}

const known = new Map<string, Picture | Bitmap>()

/**
 * Reads a picture out of SVG text or the data address of a PNG or JPEG.
 * @throws PictureError
 */
export function readPicture(source: string): Picture | Bitmap {
  let found = known.get(source)
  if (found) return found
  if (known.size > 500) known.clear()
  found = source.startsWith('data:') ? readBitmap(source) : readSvg(source)
  known.set(source, found)
  return found
}

function readBitmap(data: string): Bitmap {
  const match = /^data:image\/(png|jpeg);base64,([A-Za-z0-9+/]+=*)$/.exec(data)
  if (!match) throw new PictureError('The picture is neither SVG text nor the data address of a PNG or JPEG (data:image/png;base64,…).')
  const bytes = Uint8Array.from(atob(match[2]!), char => char.charCodeAt(0))
  const size = match[1] === 'png' ? pngSize(bytes) : jpegSize(bytes)
  if (!size) throw new PictureError(`The picture is not a readable ${match[1]!.toUpperCase()}.`)
  return { ...size, data }
}

/** PNG (ISO/IEC 15948): the header chunk comes first, with width and height. */
function pngSize(bytes: Uint8Array): { width: number; height: number } | undefined {
  const view = new DataView(bytes.buffer)
  if (bytes.length < 24 || view.getUint32(0) !== 0x89504e47 || view.getUint32(12) !== 0x49484452) return undefined
  return { width: view.getUint32(16), height: view.getUint32(20) }
}

/** JPEG (ITU T.81): the frame header SOFn holds height and width. */
function jpegSize(bytes: Uint8Array): { width: number; height: number } | undefined {
  const view = new DataView(bytes.buffer)
  if (bytes.length < 4 || view.getUint16(0) !== 0xffd8) return undefined
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) return undefined
    const marker = bytes[at + 1]!
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker))
      return { width: view.getUint16(at + 7), height: view.getUint16(at + 5) }
    at += 2 + view.getUint16(at + 2)
  }
  return undefined
}
