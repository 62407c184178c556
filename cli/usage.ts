/** Something the person at the keyboard can put right: one sentence. */
export class UsageError extends Error {}
