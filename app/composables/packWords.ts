import type { PackInfo, PackProgress, PackRunInfo } from '../../core/api/packs'
import type { Recipient } from '../../core/pack/recipients'

/** Does a run of a pack still go on by itself? */
export const packGrows = ({ state }: Pick<PackRunInfo, 'state'>): boolean =>
  state === 'waiting' || state === 'running' || state === 'sending'

/** The state of a run of a pack in words. */
export function packStateWords({ state, dry, progress }: Pick<PackRunInfo, 'state' | 'dry' | 'progress'>): string {
  if (progress && (state === 'running' || state === 'sending')) return progressOfPack(progress)
  const words: Record<PackRunInfo['state'], string> = {
    waiting: t('packWords.waiting'),
    running: t('packWords.running'),
    held: t('packWords.held'),
    sending: t('packWords.sending'),
    done: dry ? t('packWords.dryDone') : t('packWords.done'),
    failed: t('packWords.failed'),
    dropped: t('packWords.dropped'),
    cancelled: t('packWords.cancelled'),
  }
  return words[state]
}

function progressOfPack({ doing, done, of, left }: PackProgress): string {
  const counts = { done: grouped(done), of: grouped(of) }
  const words =
    doing === 'reading'
      ? t('packWords.reportsDone', counts)
      : doing === 'letters'
        ? t('packWords.pagesInLetters', counts)
        : doing === 'writing'
          ? t('packWords.filesWritten', counts)
          : t('packWords.lettersSent', counts)
  return left === undefined ? words : `${words} ${restWords(left)}`
}

/** Whom a pack goes to, in short. */
export function recipientWords(recipient: Recipient): string {
  if (recipient.is === 'folder') return t('packWords.toFolder', { folder: recipient.folder })
  if (recipient.is === 'records') return t('packWords.toRecords')
  if (recipient.is === 'print') return t('packWords.toPrinter')
  return t('packWords.toPeople', { count: recipient.to.length }, recipient.to.length)
}

/** When a pack is due next, in short. */
export function dueWords({ definition: { when }, next }: Pick<PackInfo, 'definition' | 'next'>): string {
  if (!when) return t('packWords.whenAsked')
  if (when.is === 'closed') return t('packWords.periodClosed')
  if (when.is === 'refreshed') return t('packWords.sourceRefreshed')
  return next[0] ? momentWords(next[0]) : t('packWords.never')
}
