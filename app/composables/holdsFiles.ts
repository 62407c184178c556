/** Are these files that are dragged over the page? */
export const holdsFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes('Files') ?? false
