import type { FieldInfo } from '../formula/typed'

/** Title of a field's column: its caption, with the record it comes from where that is not the level's own. */
export function fieldTitle(field: FieldInfo): string {
  if (!field.record) return field.caption
  const record = field.record.split('.').at(-1)!.replaceAll('_', ' ')
  const owner = record.charAt(0).toUpperCase() + record.slice(1)
  return /^(name|code|number)$/i.test(field.column.name)
    ? field.column.name === 'name'
      ? owner
      : `${owner} ${field.caption.toLowerCase()}`
    : `${owner}: ${field.caption.toLowerCase()}`
}
