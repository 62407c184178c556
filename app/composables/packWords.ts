import type { PackProgress, PackRunInfo } from '../../core/api/packs'
import type { Recipient } from '../../core/pack/definition'

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

function progressOfPack({ doing, done, of }: PackProgress): string {
  const counts = { done: grouped(done), of: grouped(of) }
  if (doing === 'reading') return t('packWords.reportsDone', counts)
  return doing === 'writing' ? t('packWords.filesWritten', counts) : t('packWords.lettersSent', counts)
}

/** Whom a pack goes to, in short. */
export function recipientWords(recipient: Recipient): string {
  if (recipient.is === 'folder') return t('packWords.toFolder', { folder: recipient.folder })
  return t('packWords.toPeople', { count: recipient.to.length }, recipient.to.length)
}
