/** Text of ASCII characters that is written piece by piece as bytes: many short pieces cost a fraction of what strings would. */
export class ByteText {
  private bytes = Buffer.allocUnsafe(1 << 14)
  length = 0

  private room(more: number): void {
    if (this.length + more <= this.bytes.length) return
    const larger = Buffer.allocUnsafe(Math.max(this.bytes.length * 2, this.length + more))
    this.bytes.copy(larger, 0, 0, this.length)
    this.bytes = larger
  }

  text(text: string): this {
    this.room(text.length)
    const { bytes } = this
    let at = this.length
    for (let from = 0; from < text.length; from++) bytes[at++] = text.charCodeAt(from)
    this.length = at
    return this
  }

  /** A whole number from 0. */
  number(value: number): this {
    this.room(16)
    const { bytes } = this
    let digits = 1
    for (let more = value; more >= 10; more = Math.floor(more / 10)) digits++
    let rest = value
    for (let at = this.length + digits - 1; at >= this.length; at--) {
      const tenth = Math.floor(rest / 10)
      bytes[at] = 48 + rest - tenth * 10
      rest = tenth
    }
    this.length += digits
    return this
  }

  /** A number with up to two digits after its mark, which is finer than any printer. */
  fixed(value: number): this {
    let hundredths = Math.round(value * 100)
    if (hundredths < 0) {
      this.text('-')
      hundredths = -hundredths
    }
    const rest = hundredths % 100
    this.number((hundredths - rest) / 100)
    if (!rest) return this
    this.room(3)
    this.bytes[this.length++] = 46
    this.bytes[this.length++] = 48 + Math.floor(rest / 10)
    if (rest % 10) this.bytes[this.length++] = 48 + (rest % 10)
    return this
  }

  /** What is written so far; it holds until more is written. */
  get written(): Buffer {
    return this.bytes.subarray(0, this.length)
  }

  clear(): void {
    this.length = 0
  }
}
