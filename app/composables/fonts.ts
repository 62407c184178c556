import sans from '@expo-google-fonts/noto-sans/400Regular/NotoSans_400Regular.ttf?url'
import sansBold from '@expo-google-fonts/noto-sans/700Bold/NotoSans_700Bold.ttf?url'
import sansItalic from '@expo-google-fonts/noto-sans/400Regular_Italic/NotoSans_400Regular_Italic.ttf?url'
import sansBoldItalic from '@expo-google-fonts/noto-sans/700Bold_Italic/NotoSans_700Bold_Italic.ttf?url'
import serif from '@expo-google-fonts/noto-serif/400Regular/NotoSerif_400Regular.ttf?url'
import serifBold from '@expo-google-fonts/noto-serif/700Bold/NotoSerif_700Bold.ttf?url'

let loading: Promise<void> | undefined

/** Loads the paper fonts, the very files that a PDF embeds; pages are drawn once they are there. */
export function paperFonts(): Promise<void> {
  return (loading ??= Promise.all(
    [
      ['Estante Sans', sans, '400', 'normal'],
      ['Estante Sans', sansBold, '700', 'normal'],
      ['Estante Sans', sansItalic, '400', 'italic'],
      ['Estante Sans', sansBoldItalic, '700', 'italic'],
      ['Estante Serif', serif, '400', 'normal'],
      ['Estante Serif', serifBold, '700', 'normal'],
    ].map(async ([family, url, weight, style]) => {
      const face = await new FontFace(family!, `url(${url})`, { weight, style }).load()
      document.fonts.add(face)
    }),
  ).then(() => {}))
}
