/** About how many rows there are, as a database estimates them. */
export const rowWords = (rows: number): string => (rows ? t('rowWords.aboutRows', { rows: grouped(rows) }, rows) : t('rowWords.noRows'))
