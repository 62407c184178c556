import { dirname, join } from 'node:path'

/** Where an engine with nothing in it is kept, beside the sources, for a generation's folder to be a copy of. */
export const emptyEngine = (generation: string) => join(dirname(dirname(generation)), '.empty')
