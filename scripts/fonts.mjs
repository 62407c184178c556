// Reads the advances of the paper fonts into core/compose/fontData.json, so that pages are measured with the very fonts that are embedded.
import { openSync } from 'fontkit'
import { writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'

const require = createRequire(import.meta.url)
const files = {
  sans: '@expo-google-fonts/noto-sans/400Regular/NotoSans_400Regular.ttf',
  sansBold: '@expo-google-fonts/noto-sans/700Bold/NotoSans_700Bold.ttf',
  sansItalic: '@expo-google-fonts/noto-sans/400Regular_Italic/NotoSans_400Regular_Italic.ttf',
  sansBoldItalic: '@expo-google-fonts/noto-sans/700Bold_Italic/NotoSans_700Bold_Italic.ttf',
  serif: '@expo-google-fonts/noto-serif/400Regular/NotoSerif_400Regular.ttf',
  serifBold: '@expo-google-fonts/noto-serif/700Bold/NotoSerif_700Bold.ttf',
}

/** The minus sign of the slanted faces is a hyphen; that of the upright ones stands in for it. */
const minus = 0x2212
const upright = { sansItalic: 'sans', sansBoldItalic: 'sansBold' }

export function fontData() {
  const data = {}
  for (const [name, file] of Object.entries(files)) {
    const font = openSync(require.resolve(file))
    const other = upright[name] && openSync(require.resolve(files[upright[name]]))
    const unit = 1000 / font.unitsPerEm
    const runs = []
    let last = -2
    for (const code of [...font.characterSet].filter(each => each < 0x10000).sort((a, b) => a - b)) {
      const width = Math.round((code === minus && other ? other : font).glyphForCodePoint(code).advanceWidth * unit)
      if (code === last + 1) runs.at(-1)[1].push(width)
      else runs.push([code, [width]])
      last = code
    }
    data[name] = {
      file,
      ascent: Math.round(font.ascent * unit),
      descent: Math.round(-font.descent * unit),
      missing: Math.round(font.getGlyph(0).advanceWidth * unit),
      runs,
    }
  }
  return data
}

if (process.argv[1] === new URL(import.meta.url).pathname) {
  writeFileSync(new URL('../core/compose/fontData.json', import.meta.url), JSON.stringify(fontData()))
}
