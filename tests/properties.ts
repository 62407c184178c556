import fc from 'fast-check'

// The same run of `npm test` tries the same inputs, so a failure can be repeated; ESTANTE_SEED tries others, ESTANTE_RUNS more of them.
const { ESTANTE_SEED: seed, ESTANTE_RUNS: runs } = process.env
fc.configureGlobal({ seed: seed ? Number(seed) : 20_261_031, ...(runs ? { numRuns: Number(runs) } : {}) })
