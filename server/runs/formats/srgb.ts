/**
 * The colour space of screens as a profile (IEC 61966-2-1; ICC.1:2001-04, section 6): its primaries adapted to D50, and its curve in
 * 1,024 steps. Made here, so that no file has to be found.
 */
export function srgbProfile(): Uint8Array {
  return (made ??= profile())
}
let made: Uint8Array | undefined

const tag = (type: string, body: Buffer): Buffer => Buffer.concat([Buffer.from(type, 'latin1'), Buffer.alloc(4), body])
const s15 = (value: number): number => Math.round(value * 65_536)

function xyz(...values: readonly number[]): Buffer {
  const body = Buffer.alloc(12)
  values.forEach((value, at) => body.writeInt32BE(s15(value), at * 4))
  return tag('XYZ ', body)
}

/** How bright a value of the file is meant (IEC 61966-2-1, 5.2). */
const linear = (value: number): number => (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4)

function curve(steps: number): Buffer {
  const body = Buffer.alloc(4 + steps * 2)
  body.writeUInt32BE(steps, 0)
  for (let at = 0; at < steps; at++) body.writeUInt16BE(Math.round(linear(at / (steps - 1)) * 65_535), 4 + at * 2)
  return tag('curv', body)
}

function description(text: string): Buffer {
  const own = Buffer.from(`${text}\0`, 'latin1')
  const length = Buffer.alloc(4)
  length.writeUInt32BE(own.length)
  // no text in Unicode, none in the script of one vendor
  return tag('desc', Buffer.concat([length, own, Buffer.alloc(8 + 3 + 67)]))
}

function profile(): Uint8Array {
  const steps = curve(1024)
  const tags: [string, Buffer][] = [
    ['desc', description('sRGB IEC61966-2.1')],
    ['cprt', tag('text', Buffer.from('No copyright, use freely\0', 'latin1'))],
    ['wtpt', xyz(0.9642, 1, 0.8249)],
    ['rXYZ', xyz(0.43607, 0.22249, 0.01392)],
    ['gXYZ', xyz(0.38515, 0.71687, 0.09708)],
    ['bXYZ', xyz(0.14307, 0.06061, 0.7141)],
    ['rTRC', steps],
    ['gTRC', steps],
    ['bTRC', steps],
  ]
  const head = Buffer.alloc(128)
  const table = Buffer.alloc(4 + tags.length * 12)
  table.writeUInt32BE(tags.length, 0)
  const bodies: Buffer[] = []
  const places = new Map<Buffer, number>()
  let at = head.length + table.length
  tags.forEach(([name, body], index) => {
    if (!places.has(body)) {
      places.set(body, at)
      const whole = Buffer.concat([body, Buffer.alloc((4 - (body.length % 4)) % 4)])
      bodies.push(whole)
      at += whole.length
    }
    table.write(name, 4 + index * 12, 'latin1')
    table.writeUInt32BE(places.get(body)!, 8 + index * 12)
    table.writeUInt32BE(body.length, 12 + index * 12)
  })
  head.writeUInt32BE(at, 0)
  // version 2.1, a display, red, green and blue, by way of XYZ
  head.writeUInt32BE(0x02100000, 8)
  head.write('mntrRGB XYZ ', 12, 'latin1')
  ;[2026, 1, 1, 0, 0, 0].forEach((part, index) => head.writeUInt16BE(part, 24 + index * 2))
  head.write('acsp', 36, 'latin1')
  ;[0.9642, 1, 0.8249].forEach((value, index) => head.writeInt32BE(s15(value), 68 + index * 4))
  return Buffer.concat([head, table, ...bodies])
}
