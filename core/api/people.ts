/** What people may do, from the least to the most: each may do what those before it may. */
export const roles = ['reader', 'author', 'administrator'] as const
export type Role = (typeof roles)[number]

/** Languages of the interface, as BCP 47 tags. */
export const languageTags = ['en', 'pt'] as const
export type Language = (typeof languageTags)[number]

/** People who are told apart from others: what is published to a team, and what its guards ask for, goes by it. */
export interface Team {
  id: string
  name: string
  /** lists of texts by their names, as guards ask for them: `person.branches` */
  attributes: Record<string, string[]>
}

/** Somebody who can sign in. */
export interface Person {
  id: string
  name: string
  /** what they sign in with, in small letters */
  signIn: string
  role: Role
  teams: Team[]
}

/** A team as administrators see it; `people` are ids. */
export interface TeamInfo extends Team {
  people: string[]
}

/** A person as administrators see them; `createdAt` is an ISO 8601 moment. */
export interface PersonInfo extends Omit<Person, 'teams'> {
  /** names of their teams */
  teams: string[]
  createdAt: string
  /** they have a password; a provider has signed them in; they have a second factor */
  byPassword: boolean
  byProvider: boolean
  second: boolean
}

/** A session as its owner sees it; moments are ISO 8601 texts. */
export interface SessionInfo {
  id: string
  createdAt: string
  usedAt: string
  /** the program that signed in, as it calls itself */
  about: string
  /** it is the one that asks */
  own: boolean
}

/** A token of another program as its owner sees it; `until` is its last day, moments are ISO 8601 texts. */
export interface TokenInfo {
  id: string
  name: string
  scope: Role
  createdAt: string
  until: string
  usedAt?: string
}

/** One of a demo's invented people, as the page for signing in shows them. */
export interface DemoPerson {
  id: string
  name: string
  role: Role
  /** names of their teams */
  teams: string[]
}

/** Who asks, and whether anybody can sign in. */
export interface Me {
  people: boolean
  /** nobody is here yet, and nothing else answers until the first administrator was made */
  closed?: boolean
  person?: Person
  /** the language they said they want; else that of their browser */
  language?: Language
  /** they have a password; they have a second factor */
  password?: boolean
  second?: boolean
  /** who signs people in beside us, or instead: what the button says */
  provider?: { name: string; only: boolean }
  /** invented people who can be signed in with a click */
  demo?: DemoPerson[]
}

/** The lesser of two roles. */
export const lesserRole = (a: Role, b: Role): Role => (roles.indexOf(a) <= roles.indexOf(b) ? a : b)

/** Does a role hold another: an author may do what a reader may, an administrator all? */
export const holdsRole = (role: Role, wanted: Role): boolean => roles.indexOf(role) >= roles.indexOf(wanted)
