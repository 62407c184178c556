import { runEngine } from './thread'

// an engine whose folder was made before: it is only read
await runEngine()
