/** Small drawings of what Cais Velho sells, one for each main category, drawn for it. */
const drawings: Record<number, string> = {
  1:
    '<circle cx="24" cy="24" r="17" fill="#b7a68d"/><circle cx="24" cy="24" r="12" fill="#ffffff"/><circle cx="24" cy="24" r="9" ' +
    'fill="#b7a68d"/><circle cx="24" cy="24" r="4" fill="#ffffff"/><path d="M36 32L46 40L43 44L33 37Z" fill="#b7a68d"/>',
  4:
    '<rect x="22" y="10" width="4" height="30" fill="#4b5a6b"/><rect x="14" y="15" width="20" height="4" fill="#4b5a6b"/><circle ' +
    'cx="24" cy="8" r="5" fill="#4b5a6b"/><circle cx="24" cy="8" r="2" fill="#ffffff"/><path d="M6 28L10 28C12 36 18 40 24 40C30 40 36 ' +
    '36 38 28L42 28C41 39 33 45 24 45C15 45 7 39 6 28Z" fill="#4b5a6b"/>',
  5:
    '<path d="M10 16H38V42H10Z" fill="#0f4c5c"/><ellipse cx="24" cy="16" rx="14" ry="4" fill="#e07a3f"/><path d="M14 18L14 28C14 ' +
    '30 17 30 17 28L17 19Z" fill="#e07a3f"/>',
  8:
    '<path d="M12 10H18V28C18 32 21 34 24 34C27 34 30 32 30 28V10H36V28C36 36 30 40 24 40C18 40 12 36 12 28Z" ' +
    'fill="#6d655b"/><rect x="8" y="8" width="32" height="4" fill="#6d655b"/>',
  12:
    '<path d="M18 14H30L34 36H14Z" fill="#b5851b"/><rect x="16" y="36" width="16" height="6" fill="#4b5a6b"/><rect x="20" y="8" ' +
    'width="8" height="6" fill="#4b5a6b"/>',
  13:
    '<circle cx="24" cy="24" r="18" fill="#b94a3e"/><circle cx="24" cy="24" r="9" fill="#ffffff"/><rect x="21" y="5" width="6" ' +
    'height="11" fill="#ffffff"/><rect x="21" y="32" width="6" height="11" fill="#ffffff"/><rect x="5" y="21" width="11" height="6" ' +
    'fill="#ffffff"/><rect x="32" y="21" width="11" height="6" fill="#ffffff"/>',
  16:
    '<circle cx="24" cy="24" r="16" fill="#dcb050"/><circle cx="18" cy="20" r="2" fill="#8a6414"/><circle cx="28" cy="18" r="2" ' +
    'fill="#8a6414"/><circle cx="30" cy="28" r="2" fill="#8a6414"/><circle cx="20" cy="30" r="2" fill="#8a6414"/>',
}

/** The drawing of a main category, as SVG text. */
export function categoryPicture(category: number): string {
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 48 48">${drawings[category] ?? ''}</svg>`
}
