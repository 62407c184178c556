/** Bytes as people read them. */
export function sizeWords(bytes: number): string {
  const [unit, per] = bytes >= 2 ** 30 ? ['GB', 2 ** 30] : bytes >= 2 ** 20 ? ['MB', 2 ** 20] : ['kB', 2 ** 10]
  const size = bytes / (per as number)
  return `${size.toLocaleString(locale(), { maximumFractionDigits: size < 10 ? 1 : 0 })} ${unit}`
}
