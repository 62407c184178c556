/** Texts are there before anything is shown. */
export default defineNuxtPlugin({
  name: 'words',
  enforce: 'pre',
  setup: async () => {
    await speak(firstLanguage())
  },
})
