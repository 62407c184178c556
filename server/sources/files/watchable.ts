import { existsSync, realpathSync, statSync } from 'node:fs'
import { delimiter, dirname, join, resolve, sep } from 'node:path'
import { StoreError } from '../../store/records'

/** Folders beneath which others may be watched: one of the data, and those that ESTANTE_FOLDERS names. */
export function watchRoots(sourcesFolder: string): string[] {
  const named = (process.env.ESTANTE_FOLDERS ?? '').split(delimiter).filter(Boolean)
  return [join(dirname(sourcesFolder), 'incoming'), ...named.map(each => resolve(each))]
}

/** The folder that is meant, where it may be watched. @throws StoreError with one sentence */
export function watchable(folder: string, sourcesFolder: string): string {
  const wanted = resolve(folder.trim())
  const roots = watchRoots(sourcesFolder)
  const real = existsSync(wanted) ? realpathSync(wanted) : wanted
  const within = roots.some(root => {
    const own = existsSync(root) ? realpathSync(root) : root
    return real === own || real.startsWith(own + sep)
  })
  // whether a folder is there is said only of those that may be looked at
  if (!within)
    throw new StoreError(
      `The folder ${wanted} may not be watched; choose one beneath ${roots.join(' or ')}, or start Estante with ESTANTE_FOLDERS naming it.`,
      422,
    )
  if (!existsSync(real) || !statSync(real).isDirectory()) throw new StoreError(`There is no folder ${wanted}; make it first.`, 422)
  return real
}
