import { copyLayout } from '../../core/definition/edits/layout'
import type { LayoutDefinition, ReportDefinition } from '../../core/definition/report'
import { accountStatement } from './ageing'

/** The layout of the statement of account that speaks with each customer in their language. */
export const spokenLayout = 'In the customer’s language'

/** The statement of account with a second layout, in the language of each customer. */
export function spokenStatement(): ReportDefinition {
  const statement = accountStatement()
  const copied = copyLayout(statement, statement.layouts[0]!.name, spokenLayout)
  const spoken = (layout: LayoutDefinition): LayoutDefinition => ({
    ...layout,
    blocks: layout.blocks.map(block => (block.kind === 'repeat' ? { ...block, language: 'language' } : block)),
  })
  return { ...copied, layouts: copied.layouts.map(each => (each.name === spokenLayout ? spoken(each) : each)), translations }
}

const translations: NonNullable<ReportDefinition['translations']> = {
  pt: {
    'Statement of account': 'Extrato de conta',
    'as of {{ param.asOf | d MMMM y }}': "em {{ param.asOf | d 'de' MMMM 'de' y }}",
    'Customer {{ code }}': 'Cliente {{ code }}',
    'All amounts in {{ currency_code }}': 'Todos os valores em {{ currency_code }}',
    'Balance brought forward': 'Saldo transportado',
    '{{ what }}': '{{ if(what = "receipt", "recibo", if(what = "credit", "nota de crédito", "fatura")) }}',
    Date: 'Data',
    Number: 'Número',
    Due: 'Vencimento',
    Amount: 'Valor',
    Balance: 'Saldo',
    'Open by age, in days past due': 'Em aberto por antiguidade, em dias de atraso',
    'Open in all': 'Total em aberto',
    'Page {{ page.number }} of {{ page.count }}': 'Página {{ page.number }} de {{ page.count }}',
  },
  nb: {
    'Statement of account': 'Kontoutskrift',
    'as of {{ param.asOf | d MMMM y }}': 'per {{ param.asOf | d. MMMM y }}',
    'Customer {{ code }}': 'Kunde {{ code }}',
    'All amounts in {{ currency_code }}': 'Alle beløp i {{ currency_code }}',
    'Balance brought forward': 'Inngående saldo',
    '{{ what }}': '{{ if(what = "receipt", "innbetaling", if(what = "credit", "kreditnota", "faktura")) }}',
    Date: 'Dato',
    Number: 'Nummer',
    Due: 'Forfall',
    Amount: 'Beløp',
    Balance: 'Saldo',
    'Open by age, in days past due': 'Åpent etter alder, i dager over forfall',
    'Open in all': 'Åpent i alt',
    'Page {{ page.number }} of {{ page.count }}': 'Side {{ page.number }} av {{ page.count }}',
  },
}
