import * as words from '../app/composables/words'

/** What Nuxt gives every file of app/ without an import, for its texts, spoken in English. */
await words.speak('en')
Object.assign(globalThis, words)
