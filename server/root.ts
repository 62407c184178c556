import { join } from 'node:path'

/** The project's folder: where packages, migrations and built workers lie. The starting scripts set it. */
export function projectRoot(): string {
  return process.env.ESTANTE_ROOT ?? process.cwd()
}

/** A worker's file, built by scripts/workers.mjs. */
export function workerFile(name: string): string {
  return join(projectRoot(), '.build', 'workers', `${name}.mjs`)
}
