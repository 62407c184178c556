/** What the machine refuses, in sentences for whoever asked; nothing for any other fault. */
const sentences: Readonly<Record<string, string>> = {
  ENOSPC: 'The disk is full; free some space and try again.',
  EDQUOT: 'The disk quota is used up; free some space and try again.',
  EROFS: 'The disk cannot be written to; make it writable and try again.',
  EMFILE: 'Estante may not open more files at once; raise the limit of open files (ulimit -n) and start it again.',
  ENFILE: 'The machine may not open more files at once; close other programs or raise its limit.',
  EACCES: 'Estante may not write to its data folder; give it the right to and try again.',
}

/** One sentence where the machine is at its limit. */
export function machineSentence(error: unknown): string | undefined {
  const { code, message } = (error ?? {}) as NodeJS.ErrnoException
  const found = code !== undefined && Object.hasOwn(sentences, code) ? sentences[code] : undefined
  // faults that have crossed threads have their message only
  return found ?? Object.entries(sentences).find(([name]) => message?.startsWith(`${name}: `))?.[1]
}
