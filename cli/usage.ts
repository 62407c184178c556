/** Something the person at the keyboard can put right: one sentence. */
export class UsageError extends Error {
  constructor(
    message: string,
    /** what a server has told beside its sentence */
    readonly data: Readonly<Record<string, unknown>> = {},
  ) {
    super(message)
  }
}
