import type { Output } from '../../core/api/outputs'

/** A file that the rows or pages of a run are written to; `pages` are the display lists that a kept run consists of. */
export type RunOutput = (Exclude<Output, { format: 'zip' }> | { format: 'pages' }) & { file: string }
