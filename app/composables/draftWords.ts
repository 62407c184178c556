import type { DraftKind } from '../../core/templates/drafts/layout'

/** What a kind of draft is called, wherever it is offered. */
export function draftWords(kind: DraftKind): { label: string; words: string; icon: string } {
  if (kind === 'document')
    return { label: t('draftWords.aDocumentForEachRecord'), words: t('draftWords.aDocumentForEachRecord2'), icon: 'i-lucide-file-text' }
  if (kind === 'groups') return { label: t('draftWords.aListInGroups'), words: t('draftWords.aListInGroups2'), icon: 'i-lucide-rows-3' }
  return { label: t('draftWords.aPlainList'), words: t('draftWords.aPlainList2'), icon: 'i-lucide-list' }
}
