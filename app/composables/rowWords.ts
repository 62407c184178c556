/** About how many rows there are, as a database estimates them. */
export const rowWords = (rows: number) => (rows ? `about ${rows.toLocaleString('en')} ${rows === 1 ? 'row' : 'rows'}` : 'no rows')
