import type { ThemeDefinition } from '../definition/style'

const named: ThemeDefinition['named'] = {
  title: { font: 'serif', size: 16, bold: true, colour: '#0f4c5c' },
  heading: { size: 11, bold: true },
  label: { size: 8, colour: '#6d655b' },
  small: { size: 7.5, colour: '#6d655b' },
  note: { italic: true, colour: '#6d655b' },
}
const ink = '#26221d'

/** Three looks of our own. A theme holds everything a report needs, so that changing it changes all that the author has not set by hand. */
export const themes: readonly ThemeDefinition[] = [
  {
    name: 'plain',
    body: { size: 9, colour: ink },
    line: ink,
    padding: { x: 4, y: 2.8 },
    named,
    rows: {
      titles: { size: 8.5, bold: true, italic: false, colour: ink, below: 'thin' },
      groupStart: { bold: true, above: 'none' },
      line: {},
      extra: { size: 8, colour: '#6d655b' },
      groupEnd: { bold: true, above: 'hair' },
      end: { bold: true, above: 'thin' },
      carried: { italic: true, bold: false, colour: '#6d655b' },
    },
  },
  {
    name: 'ruled',
    body: { size: 9, colour: ink },
    line: '#0f4c5c',
    padding: { x: 4, y: 3.4 },
    named,
    rows: {
      titles: { size: 8, bold: true, italic: false, colour: '#0f4c5c', above: 'thick', below: 'thin' },
      groupStart: { bold: true, colour: '#0f4c5c', below: 'hair' },
      line: { below: 'hair' },
      extra: { size: 8, colour: '#6d655b' },
      groupEnd: { bold: true, below: 'thin' },
      end: { bold: true, above: 'thin', below: 'double' },
      carried: { italic: true, bold: false, colour: '#6d655b' },
    },
  },
  {
    name: 'banded',
    body: { size: 9, colour: ink },
    line: '#b5683a',
    band: '#f6f1ea',
    padding: { x: 5, y: 3 },
    named: { ...named, title: { size: 17, bold: true, colour: '#8a4a22' } },
    rows: {
      titles: { size: 8.5, bold: true, italic: false, colour: '#ffffff', fill: '#8a4a22' },
      groupStart: { bold: true, fill: '#ecdfd0' },
      line: {},
      extra: { size: 8, colour: '#6d655b' },
      groupEnd: { bold: true, above: 'hair' },
      end: { bold: true, fill: '#ecdfd0', above: 'thin' },
      carried: { italic: true, bold: false, colour: '#6d655b' },
    },
  },
]
