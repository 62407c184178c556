/** A seeded source of chance, the same on every machine (the mulberry32 generator). */
export class Chance {
  constructor(private seed: number) {}

  /** At least 0, below 1. */
  next(): number {
    this.seed = (this.seed + 0x6d2b79f5) | 0
    let t = Math.imul(this.seed ^ (this.seed >>> 15), 1 | this.seed)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }

  /** A whole number from `low` to `high`, both included. */
  whole(low: number, high: number): number {
    return low + Math.floor(this.next() * (high - low + 1))
  }

  one<T>(list: readonly T[]): T {
    return list[Math.floor(this.next() * list.length)]!
  }

  chance(share: number): boolean {
    return this.next() < share
  }
}

/** Rows of one table in the text format of COPY (PostgreSQL manual, COPY, "Text Format"). */
export class TableText {
  private lines: string[] = []
  private parts: string[] = []
  count = 0

  add(...values: (string | number | boolean | null)[]): void {
    let line = ''
    for (let i = 0; i < values.length; i++) {
      const value = values[i]!
      if (i) line += '\t'
      line +=
        value === null
          ? '\\N'
          : typeof value === 'string'
            ? value.replace(/[\\\t\n\r]/g, char => `\\${{ '\\': '\\', '\t': 't', '\n': 'n', '\r': 'r' }[char]}`)
            : value === true
              ? 't'
              : value === false
                ? 'f'
                : value
    }
    this.lines.push(line)
    this.count++
    if (this.lines.length === 20000) this.flush()
  }

  private flush(): void {
    if (this.lines.length) this.parts.push(`${this.lines.join('\n')}\n`)
    this.lines = []
  }

  blob(): Blob {
    this.flush()
    return new Blob(this.parts)
  }
}

/** Cents as "12.50". */
export function money(cents: number): string {
  const size = Math.abs(cents)
  return `${cents < 0 ? '-' : ''}${Math.floor(size / 100)}.${String(size % 100).padStart(2, '0')}`
}

/** Units of `digits` digits after the mark as plain text. */
export function fixed(units: number, digits: number): string {
  const size = String(Math.abs(units)).padStart(digits + 1, '0')
  return `${units < 0 ? '-' : ''}${size.slice(0, -digits)}.${size.slice(-digits)}`
}

/** A product divided by `divisor`, half away from zero; exact while the product is a safe integer. */
export function share(a: number, b: number, divisor: number): number {
  const product = BigInt(a) * BigInt(b)
  const size = product < 0n ? -product : product
  const rounded = (2n * size + BigInt(divisor)) / (2n * BigInt(divisor))
  return Number(product < 0n ? -rounded : rounded)
}
