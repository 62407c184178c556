import type { DraftKind } from '../../core/templates/drafts/layout'

/** What the kinds of drafts are called, wherever they are offered. */
export const draftWords: Record<DraftKind, { label: string; words: string; icon: string }> = {
  document: { label: 'A document for each record', words: 'a document for each record', icon: 'i-lucide-file-text' },
  groups: { label: 'A list in groups', words: 'a list in groups', icon: 'i-lucide-rows-3' },
  list: { label: 'A plain list', words: 'a plain list', icon: 'i-lucide-list' },
}
