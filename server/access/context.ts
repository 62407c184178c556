import type { Person, Team } from '../../core/api/people'

/** Who is asking. Every function that reads or writes for somebody takes it first. */
export interface Context {
  /** tells people apart: whose queries take turns with whose. Where nobody can sign in, a browser or a program is somebody */
  person: string
  /** who is signed in; nobody in particular where nobody can */
  signedIn?: Person
  /** an author who looks at something as a team sees it */
  as?: Team
  /** what the reading is for: of one person's, each has its turn */
  task?: string
  /** names a reading that holds a moment of its sources: what it asks beside it does not wait for whoever waits for it to end */
  within?: string
  /** whoever asked is gone, or does not want it any more */
  signal?: AbortSignal
}

/** The program itself, where it does something for nobody in particular. */
export const ownContext: Context = { person: 'estante' }

/** Whoever asks, apart from the request by which they do: for what goes on when that is over. */
export const whose = ({ person, signedIn, as, within }: Context): Context => ({
  person,
  ...(signedIn ? { signedIn } : {}),
  ...(as ? { as } : {}),
  ...(within === undefined ? {} : { within }),
})

/** The same person with another task. */
export function forTask(context: Context, task: string, signal: AbortSignal | undefined = context.signal): Context {
  return { ...whose(context), task, ...(signal ? { signal } : {}) }
}
