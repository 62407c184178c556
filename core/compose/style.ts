import type { Align, Border, RowStyle, TextStyle, ThemeDefinition } from '../definition/style'
import type { RowKind } from '../definition/blocks/table'
import { type FontName, lineSpacing } from './fonts'
import { themes } from './themes'

/** A text style with nothing left open. Lengths are points. */
export interface ResolvedStyle {
  font: FontName
  size: number
  colour: string
  align: Align
  vertical: 'top' | 'middle' | 'bottom'
  overflow: 'wrap' | 'cut' | 'shrink'
  indent: number
  rotated: boolean
  marks?: boolean
  fill?: string
}

/** Colours and sizes that do not come from a theme. */
export const look = { ink: '#26221d', soft: '#6d655b', rule: '#26221d', hairline: '#d9d2c7', body: 9 } as const

/** Thickness in points; a double line takes two of them and a gap. */
export const borders: Record<Border, number> = { hair: 0.4, thin: 0.75, thick: 1.5, double: 2.6 }

/** Our themes and the report's own, by name. */
export function themeNamed(name: string | undefined, own: readonly ThemeDefinition[] = []): ThemeDefinition {
  return own.find(theme => theme.name === name) ?? themes.find(theme => theme.name === name) ?? themes[0]!
}

/** The style of a kind of row in a theme; both carried rows share one. */
export function rowRole(kind: RowKind): keyof ThemeDefinition['rows'] {
  return kind === 'forward' || kind === 'brought' ? 'carried' : kind
}

/** One style out of several: later ones win, and the named style that any of them starts from comes before it. */
export function resolveStyle(theme: ThemeDefinition, ...styles: (TextStyle | undefined)[]): ResolvedStyle {
  const style: RowStyle = { ...theme.body }
  for (const each of styles) {
    if (!each) continue
    if (each.named) Object.assign(style, theme.named[each.named])
    Object.assign(style, each)
  }
  const serif = style.font === 'serif'
  const font: FontName = serif
    ? style.bold
      ? 'serifBold'
      : 'serif'
    : style.bold && style.italic
      ? 'sansBoldItalic'
      : style.bold
        ? 'sansBold'
        : style.italic
          ? 'sansItalic'
          : 'sans'
  return {
    font,
    size: style.size ?? look.body,
    colour: style.colour ?? look.ink,
    align: style.align ?? 'left',
    vertical: style.vertical ?? 'top',
    overflow: style.overflow ?? 'wrap',
    indent: style.indent ?? 0,
    rotated: style.rotated ?? false,
    ...(style.fill ? { fill: style.fill } : {}),
    ...(style.marks ? { marks: true } : {}),
  }
}

/** Contrast of a text's colour with what is behind it, 1 to 21 (WCAG 2.2, relative luminance). */
export function contrast(text: string, behind = '#ffffff'): number {
  const luminance = (hex: string) =>
    [1, 3, 5]
      .map(at => {
        const part = parseInt(hex.slice(at, at + 2), 16) / 255
        return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4
      })
      .reduce((sum, part, index) => sum + part * [0.2126, 0.7152, 0.0722][index]!, 0)
  const [a, b] = [luminance(text), luminance(behind)]
  return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05)
}

/** Height of one line of a style, in points. */
export const lineHeight = (style: ResolvedStyle) => style.size * lineSpacing
