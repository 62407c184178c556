import type { SourceSettings } from '../../core/books/settings'

/** The settings of a source that stand in a file; the server sees whether they fit. @throws Error with one sentence */
export function readSettingsText(text: string, name: string): SourceSettings {
  try {
    const found: unknown = JSON.parse(text)
    if (typeof found === 'object' && found !== null && !Array.isArray(found)) return found as SourceSettings
  } catch {
    // told below
  }
  throw new Error(t('readSettingsText.holdsNoSettingsOfA', { name }))
}
