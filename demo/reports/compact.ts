import type { LayoutDefinition, ReportDefinition } from '../../core/definition/report'
import type { TableBlock } from '../../core/definition/blocks/table'
import { plainTable } from '../../core/definition/upgrade'
import { column, text } from './invoice'

const right = { style: { align: 'right' as const } }
const width = 505.28

/** The invoice on as little paper as it needs, in the customer's own language: payment slip at the bottom, with a code to scan. */
export function compactLayout(): LayoutDefinition {
  const lines = plainTable(
    'compactLines',
    'lines',
    [
      column('item', 'Item', '{{ item.code }}', 58),
      column('description', 'Description', '{{ description }}', 0),
      column('quantity', 'Quantity', '{{ quantity }}', 56, right),
      column('price', 'Price', '{{ unit_price }}', 60, right),
      column('amount', 'Amount', '{{ amount }}', 74, right),
    ],
    { after: 10 },
  )
  return {
    name: 'Compact',
    theme: 'ruled',
    documentName: 'Invoice {{ number }} {{ customer.code }}',
    page: { size: 'A4', orientation: 'portrait', margins: { top: 36, right: 45, bottom: 30, left: 45 } },
    foot: {
      kind: 'panel',
      id: 'compactFoot',
      height: 12,
      after: 6,
      items: [
        text('printed', 0, 0, 250, '{{ page.printed }}', { named: 'small' }),
        text('pages', width - 250, 0, 250, 'Page {{ page.number }} of {{ page.count }}', { named: 'small', align: 'right' }),
      ],
    },
    blocks: [
      {
        kind: 'repeat',
        id: 'compactInvoices',
        level: 'invoice',
        newPage: true,
        restartNumbers: true,
        outline: '{{ number }}  {{ customer.name }}',
        language: 'customer.language',
        after: 0,
        blocks: [
          {
            kind: 'panel',
            id: 'compactHead',
            height: 52,
            after: 10,
            items: [
              text('compactTitle', 0, 0, 300, 'Invoice {{ number }}', { named: 'title' }),
              text('compactDate', 300, 4, width - 300, '{{ invoice_date | d MMMM y }}', { align: 'right' }),
              text(
                'compactName',
                0,
                24,
                300,
                '{{ customer.name }}\n{{ customer.address }} · {{ customer.town.postcode }} {{ customer.town.name }}',
              ),
              text('compactDue', 300, 18, width - 300, 'Due on {{ due_date | d MMMM y }}', { align: 'right', bold: true }),
            ],
          },
          {
            ...lines,
            rows: lines.rows.flatMap((row): TableBlock['rows'] =>
              row.kind === 'line'
                ? [
                    { ...row, id: 'amountLine', when: 'amount != empty' },
                    {
                      id: 'remarkLine',
                      kind: 'line' as const,
                      cells: { description: { text: '{{ description }}', span: 4, style: { italic: true } } },
                    },
                  ]
                : [row],
            ),
          },
          {
            kind: 'panel',
            id: 'compactTotals',
            height: 40,
            after: 10,
            items: [
              text('compactSumLabel', 260, 0, 150, 'Lines, freight and discount', { align: 'right' }),
              text('compactSum', 415, 0, 86, '{{ lines_total + freight - discount }}', { align: 'right' }),
              text('compactTaxLabel', 260, 13, 150, 'Tax', { align: 'right' }),
              text('compactTax', 415, 13, 86, '{{ sum(taxes.amount) }}', { align: 'right' }),
              text('compactDueLabel', 260, 28, 150, 'Total due, {{ currency_code }}', { align: 'right', bold: true }),
              text('compactTotal', 415, 28, 86, '{{ total }}', { align: 'right', bold: true }),
            ],
          },
          {
            kind: 'panel',
            id: 'slip',
            height: 74,
            after: 0,
            atBottom: true,
            items: [
              { kind: 'box', id: 'slipBox', x: 0, y: 0, width, height: 72, border: '#0f4c5c', thickness: 0.75 },
              {
                kind: 'code',
                id: 'slipCode',
                x: 8,
                y: 8,
                width: 56,
                height: 56,
                code: 'qrcode',
                text: 'Cais Velho {{ number }} {{ total | 0.00 }} {{ currency_code }}',
              },
              text('slipTitle', 76, 8, 300, 'Payment slip', { bold: true, colour: '#0f4c5c' }),
              text('slipText', 76, 22, 330, '{{ number }} · {{ customer.code }} · {{ customer.name }}'),
              text('slipWords', 76, 36, 420, '{{ words(total, currency_code) }}', { italic: true, size: 8 }),
              text('slipAmount', 380, 8, width - 392, '{{ currency_code }} {{ total }}', { align: 'right', bold: true, size: 11 }),
            ],
          },
        ],
      },
    ],
  }
}

/** What the compact layout prints in Portuguese and Norwegian. */
export const compactTranslations: NonNullable<ReportDefinition['translations']> = {
  pt: {
    'Invoice {{ number }}': 'Fatura {{ number }}',
    'Due on {{ due_date | d MMMM y }}': "A pagar até {{ due_date | d 'de' MMMM 'de' y }}",
    '{{ invoice_date | d MMMM y }}': "{{ invoice_date | d 'de' MMMM 'de' y }}",
    Item: 'Artigo',
    Description: 'Descrição',
    Quantity: 'Quantidade',
    Price: 'Preço',
    Amount: 'Valor',
    'Lines, freight and discount': 'Linhas, porte e desconto',
    Tax: 'Imposto',
    'Total due, {{ currency_code }}': 'Total a pagar, {{ currency_code }}',
    'Payment slip': 'Talão de pagamento',
    'Page {{ page.number }} of {{ page.count }}': 'Página {{ page.number }} de {{ page.count }}',
  },
  nb: {
    'Invoice {{ number }}': 'Faktura {{ number }}',
    'Due on {{ due_date | d MMMM y }}': 'Forfaller {{ due_date | d. MMMM y }}',
    '{{ invoice_date | d MMMM y }}': '{{ invoice_date | d. MMMM y }}',
    Item: 'Vare',
    Description: 'Beskrivelse',
    Quantity: 'Antall',
    Price: 'Pris',
    Amount: 'Beløp',
    'Lines, freight and discount': 'Linjer, frakt og rabatt',
    Tax: 'Mva.',
    'Total due, {{ currency_code }}': 'Å betale, {{ currency_code }}',
    'Payment slip': 'Giroblankett',
    'Page {{ page.number }} of {{ page.count }}': 'Side {{ page.number }} av {{ page.count }}',
  },
}
