import type { SourcePlugin } from './contract'

const plugins: SourcePlugin[] = []

/** A source that comes with the program registers itself here, before the data folder is opened: see plugins.ts. */
export function registerSource(plugin: SourcePlugin): void {
  if (!plugins.includes(plugin)) plugins.push(plugin)
}

export function registeredSources(): readonly SourcePlugin[] {
  return plugins
}
