import type { Frame, Piece } from './pieces'

/** Pieces that stay together, one after the other, with a look at those that follow. */
export class Units {
  private readonly waiting: Piece[][] = []
  private ahead_: Piece | undefined
  private over = false
  constructor(private readonly source: Generator<Piece>) {
    this.ahead_ = this.pull()
  }

  private pull(): Piece | undefined {
    const next = this.source.next()
    if (next.done) {
      this.over = true
      return undefined
    }
    return next.value
  }

  private read(): Piece[] | undefined {
    if (!this.ahead_) return undefined
    const unit = [this.ahead_]
    for (;;) {
      const next = this.over ? undefined : this.pull()
      this.ahead_ = next
      if (!next || !(unit.at(-1)!.withNext || next.withPrevious) || next.newPage) return unit
      unit.push(next)
    }
  }

  next(): Piece[] | undefined {
    return this.waiting.shift() ?? this.read()
  }

  done(): boolean {
    return !this.waiting.length && !this.ahead_
  }

  /** Height of the units after this one that stand in a frame; it stops where it is more than `most`. */
  ahead(frame: Frame, height: (unit: Piece[]) => number, most: number): number {
    let sum = 0
    for (let index = 0; sum <= most; index++) {
      const unit = this.waiting[index] ?? this.read()
      if (!unit) break
      if (this.waiting[index] !== unit) this.waiting.push(unit)
      const inside = (piece: Piece) => {
        for (let at: Frame | undefined = piece.frame; at; at = at.parent) if (at === frame) return true
        return false
      }
      if (!inside(unit[0]!)) break
      sum += height(unit)
    }
    return sum
  }
}
