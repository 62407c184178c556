/** What is written down, in the words of the log. */
export const auditKinds = [
  'signed in',
  'sign-in refused',
  'signed out',
  'session ended',
  'password changed',
  'second factor made',
  'second factor taken away',
  'provider changed',
  'token made',
  'token taken back',
  'person added',
  'person changed',
  'person removed',
  'team added',
  'team changed',
  'team removed',
  'guards changed',
  'report saved',
  'report published',
  'release asked for',
  'report released',
  'release refused',
  'rights changed',
  'shelf changed',
  'report put away',
  'report run',
  'run ended',
  'keeping changed',
  'company days changed',
  'mail server changed',
  'printers changed',
  'pack changed',
  'pack run',
  'pack decided',
  'file taken',
  'address made',
  'address taken back',
  'source added',
  'source changed',
  'source let go',
  'personal taken out',
] as const
export type AuditKind = (typeof auditKinds)[number]

/** Who did something, and from where. */
export interface AuditPerson {
  id: string
  name: string
  address?: string
}

/** An entry of the log; `at` is an ISO 8601 moment. */
export interface AuditEntry {
  number: number
  at: string
  kind: AuditKind
  about: Record<string, unknown>
  /** left out once it was taken out */
  personal?: AuditPerson
}

/** Is the chain whole: where it is not, the first entry that is not as it was written. */
export type AuditCheck = { whole: true; entries: number } | { whole: false; entries: number; broken: number; sentence: string }
