import sans from '@expo-google-fonts/noto-sans/400Regular/NotoSans_400Regular.ttf?url'
import sansBold from '@expo-google-fonts/noto-sans/700Bold/NotoSans_700Bold.ttf?url'
import sansItalic from '@expo-google-fonts/noto-sans/400Regular_Italic/NotoSans_400Regular_Italic.ttf?url'
import sansBoldItalic from '@expo-google-fonts/noto-sans/700Bold_Italic/NotoSans_700Bold_Italic.ttf?url'
import serif from '@expo-google-fonts/noto-serif/400Regular/NotoSerif_400Regular.ttf?url'
import serifBold from '@expo-google-fonts/noto-serif/700Bold/NotoSerif_700Bold.ttf?url'

/** The minus sign of the slanted faces is that of the upright ones, as in a PDF. */
const minus = 'U+2212'
const slanted = 'U+0-2211, U+2213-10FFFF'
let loading: Promise<void> | undefined

/** Loads the paper fonts, the very files that a PDF embeds; pages are drawn once they are there. */
export function paperFonts(): Promise<void> {
  return (loading ??= Promise.all(
    [
      ['Estante Sans', sans, '400', 'normal'],
      ['Estante Sans', sansBold, '700', 'normal'],
      ['Estante Sans', sansItalic, '400', 'italic', slanted],
      ['Estante Sans', sansBoldItalic, '700', 'italic', slanted],
      ['Estante Sans', sans, '400', 'italic', minus],
      ['Estante Sans', sansBold, '700', 'italic', minus],
      ['Estante Serif', serif, '400', 'normal'],
      ['Estante Serif', serifBold, '700', 'normal'],
    ].map(async ([family, url, weight, style, unicodeRange = 'U+0-10FFFF']) => {
      const face = await new FontFace(family!, `url(${url})`, { weight: weight!, style: style!, unicodeRange }).load()
      document.fonts.add(face)
    }),
  ).then(() => {}))
}
