import { readPicture } from '../../core/compose/pictures'

/** A picture file as the definition keeps it: SVG as text, others as a data address. @throws Error with one sentence */
export async function pictureOf(file: File): Promise<string> {
  if (file.size > 2_000_000) throw new Error(t('pictures.hasMbAPictureCan', { name: file.name, what: (file.size / 1_000_000).toFixed(1) }))
  const source =
    file.type === 'image/svg+xml'
      ? await file.text()
      : await new Promise<string>((resolve, reject) => {
          const reader = new FileReader()
          reader.onload = () => resolve(String(reader.result))
          reader.onerror = () => reject(new Error(t('pictures.cannotBeRead', { name: file.name })))
          reader.readAsDataURL(file)
        })
  readPicture(source)
  return source
}

const decoded = new Map<string, ImageBitmap>()
const waiting = new Set<string>()
/** The decoded picture of a data address; where it is not ready yet, `ready` is called once it is. */
export function bitmapOf(data: string, ready: () => void): ImageBitmap | undefined {
  const found = decoded.get(data)
  if (found || waiting.has(data)) return found
  waiting.add(data)
  const bytes = Uint8Array.from(atob(data.slice(data.indexOf(',') + 1)), char => char.charCodeAt(0))
  createImageBitmap(new Blob([bytes], { type: data.slice(5, data.indexOf(';')) }))
    .then(image => {
      decoded.set(data, image)
      ready()
    })
    .catch(() => {})
    .finally(() => waiting.delete(data))
  return undefined
}
