import type { Guard } from '../core/guard/guards'
import type { DemoCompany } from '../server/sources/contract'

/** Tables whose records are a branch's, by the column that names it. */
const ofBranch = [
  'invoices',
  'orders',
  'receipts',
  'journal_lines',
  'budgets',
  'warehouses',
  'purchase_requests',
  'purchase_orders',
  'supplier_bills',
  'payments',
]
/** Tables whose records go with another's, and by which column. */
const withOthers: [table: string, column: string][] = [
  ['invoice_lines', 'invoice_id'],
  ['invoice_taxes', 'invoice_id'],
  ['applications', 'invoice_id'],
  ['order_lines', 'order_id'],
  ['purchase_request_lines', 'request_id'],
  ['purchase_order_lines', 'order_id'],
  ['supplier_bill_lines', 'bill_id'],
  ['payment_applications', 'bill_id'],
  ['stock_levels', 'warehouse_id'],
  ['stock_movements', 'warehouse_id'],
]

/** What a branch sees: its own documents, postings and stock, and no bank accounts of suppliers. */
const guardsOf = (team: string): Guard[] => [
  { team, table: 'branches', is: 'records', formula: 'code in (person.branches)' },
  ...ofBranch.map((table): Guard => ({ team, table, is: 'with', key: `${table}_branch_id_fkey` })),
  ...withOthers.map(([table, column]): Guard => ({ team, table, is: 'with', key: `${table}_${column}_fkey` })),
  { team, table: 'suppliers', is: 'hidden', columns: ['bank_account'] },
]

/** Five invented people of Cais Velho, who can be picked on the page for signing in. */
export const demoCompany: DemoCompany = {
  teams: [
    { name: 'Finance', attributes: {} },
    { name: 'Purchasing', attributes: {} },
    { name: 'North Quay', attributes: { branches: ['NQ'] } },
    { name: 'Island Depot', attributes: { branches: ['ID'] } },
  ],
  people: [
    { name: 'Inês Moura', signIn: 'ines', role: 'administrator', teams: [] },
    { name: 'Rui Paiva', signIn: 'rui', role: 'author', teams: ['Finance'] },
    { name: 'Clara Nunes', signIn: 'clara', role: 'author', teams: ['Purchasing'] },
    { name: 'Tomás Vaz', signIn: 'tomas', role: 'reader', teams: ['North Quay'] },
    { name: 'Lídia Brito', signIn: 'lidia', role: 'reader', teams: ['Island Depot'] },
  ],
  guards: [...guardsOf('North Quay'), ...guardsOf('Island Depot')],
}
