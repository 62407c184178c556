import type { ParameterDefinition } from '../definition/parameters'

/** A file's name from a report's name and its answers, cleaned of what file systems refuse; at most 120 characters. */
export function fileName(report: string, parameters: readonly ParameterDefinition[], answers: Readonly<Record<string, string>>): string {
  const parts = parameters
    .filter(parameter => !parameter.hidden)
    .flatMap(parameter =>
      answers[parameter.name]?.trim() ? [answers[parameter.name]!.trim().replaceAll('..', ' to ').replaceAll(',', ' ')] : [],
    )
  return cleanFileName([report, ...parts].join(' '))
}

/** A text as the name of a file, without what file systems refuse; at most 120 characters. */
export function cleanFileName(text: string): string {
  const clean = text
    // what reads text from right to left, or not at all, could hide where a name ends
    .replace(/[\p{Cc}\p{Cf}\p{Cs}\u2028\u2029<>:"/\\|?*]+/gu, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[. ]+/, '')
  // no character is cut in half
  let name = ''
  for (const char of clean) {
    if (name.length + char.length > 120) break
    name += char
  }
  while (/[. ]$/.test(name)) name = name.slice(0, -1)
  if (!name) return 'Report'
  // names that an old system takes for a device, with any ending (Windows, “Naming Files”)
  return /^(con|prn|aux|nul|com\d|lpt\d|conin\$|conout\$)(\.|$)/i.test(name) ? `_${name}` : name
}

/** Cleans names of files that lie together, and tells apart those that would be the same (letter case does not everywhere). */
export function uniqueNamer(): (name: string) => string {
  const taken = new Set<string>()
  return each => {
    const plain = cleanFileName(each)
    let name = plain
    for (let again = 2; taken.has(name.toLowerCase()); again++) name = `${plain} ${again}`
    taken.add(name.toLowerCase())
    return name
  }
}
