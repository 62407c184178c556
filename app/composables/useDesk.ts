import type { DeskDocument } from '../../core/api/desk'
import { type Decimal, parseDecimal, zero } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'

/** A number as people type it, with a comma or a point. */
export const typedNumber = (text: string) => text.trim().replace(',', '.')
export const typedAmount = (text: string): Decimal => parseDecimal(typedNumber(text)) ?? zero
export const deskMoney = (amount: Decimal): string => numberFormat('#,##0.00', locale())(amount)
/** The look of the desk's fields. */
export const deskField = 'w-full rounded-md border border-default bg-default px-2 py-1'

/** Sends a document of the desk; what is wrong with it comes as a sentence. */
export function useDeskPost(posted: () => void) {
  const problem = ref('')
  const posting = ref(false)
  const toast = useToast()
  // what is on the form is posted once, however often it is sent
  let key = crypto.randomUUID()
  async function send(document: DeskDocument): Promise<boolean> {
    if (posting.value) return false
    posting.value = true
    problem.value = ''
    try {
      const { number } = await api<{ number: string }>(useSources().path('desk/documents'), { method: 'POST', body: { ...document, key } })
      key = crypto.randomUUID()
      toast.add({ title: t('desk.postedAsReportsShowIt', { number }), icon: 'i-lucide-check', color: 'success' })
      posted()
      return true
    } catch (error) {
      problem.value = (error as Error).message
      return false
    } finally {
      posting.value = false
    }
  }
  return { problem, posting, send }
}
