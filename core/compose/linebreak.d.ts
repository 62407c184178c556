declare module 'linebreak' {
  /** Line breaking opportunities of Unicode UAX 14. */
  export default class LineBreaker {
    constructor(text: string)
    nextBreak(): { position: number; required: boolean } | null
  }
}
