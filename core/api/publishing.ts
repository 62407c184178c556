/** Who runs and who edits a report; teams are ids. */
export interface ReportAudience {
  /** it is published to everybody, else to some teams */
  toAll: boolean
  teams: string[]
  /** who edits it beside whoever made it: all authors, those of some teams, or nobody */
  editing: 'all' | 'teams' | 'owner'
  editors: string[]
  /** the name of whoever made it */
  owner?: string
}

/** Something that was published, or is to be; moments are ISO 8601 texts. */
export interface Publication {
  version: number
  state: 'waiting' | 'published' | 'refused' | 'overtaken'
  /** what had changed, in sentences */
  changes: string[]
  by?: string
  at: string
  /** who released or refused it */
  second?: string
  secondAt?: string
}
