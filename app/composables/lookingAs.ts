import type { Team } from '../../core/api/people'

const key = 'estante look as'

/** The team as which an author looks at reports in this tab; nothing where they look as themselves. */
export function lookingAs(): Pick<Team, 'id' | 'name'> | undefined {
  if (typeof sessionStorage === 'undefined') return undefined
  try {
    return JSON.parse(sessionStorage.getItem(key) ?? 'null') ?? undefined
  } catch {
    return undefined
  }
}

/** From now on this tab looks as a team, or as oneself again: all that was read is read anew. */
export function lookAs(team: Pick<Team, 'id' | 'name'> | undefined): void {
  if (team) sessionStorage.setItem(key, JSON.stringify({ id: team.id, name: team.name }))
  else sessionStorage.removeItem(key)
  window.location.reload()
}
