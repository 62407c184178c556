/**
 * What was read of people's rights, remembered until anything of them is changed: for a store that this process alone changes. What is read
 * while something is being changed is not remembered.
 */
export class Remembered {
  private readonly known = new Map<string, unknown>()
  private generation = 0

  /** @param on whether this process alone changes the store; where others may, all is read anew */
  constructor(private readonly on: () => boolean) {}

  /** What stands under a key; `still` says whether what is remembered can be taken. */
  async read<T>(key: string, work: () => Promise<T>, still: (found: NonNullable<T>) => boolean = () => true): Promise<T> {
    if (!this.on()) return work()
    const known = this.known.get(key) as NonNullable<T> | undefined
    if (known !== undefined && still(known)) return known
    const { generation } = this
    const found = await work()
    if (generation === this.generation && found !== undefined) {
      if (this.known.size >= most) this.known.clear()
      this.known.set(key, found)
    }
    return found
  }

  /** Runs a change, after which nothing of before is remembered. */
  async changing<T>(change: () => Promise<T>): Promise<T> {
    this.forget()
    try {
      return await change()
    } finally {
      this.forget()
    }
  }

  private forget(): void {
    this.generation++
    this.known.clear()
  }
}

/** Entries that are remembered at most. */
const most = 5000
