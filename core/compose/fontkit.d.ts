declare module 'fontkit' {
  /** A font out of the bytes of its file. */
  export function create(bytes: Uint8Array): { hasGlyphForCodePoint: (code: number) => boolean }
}
