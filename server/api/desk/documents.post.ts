import { array, object, type Schema, string } from 'yup'
import type { DeskDocument } from '../../../demo/deskDocuments'

const text = () => string().strict().defined().max(500)
const optional = () => string().strict().max(500)
const lines = (fields: Record<string, ReturnType<typeof optional>>) => array(object(fields).noUnknown()).strict().required().max(500)
const shapes: Record<DeskDocument['kind'], Schema> = {
  entry: object({
    date: text(),
    description: text(),
    document: optional(),
    lines: lines({ account: text(), branch: text(), department: optional(), debit: optional(), credit: optional() }),
  }).noUnknown(),
  invoice: object({
    date: text(),
    customer: text(),
    branch: text(),
    freight: optional(),
    discount: optional(),
    note: optional(),
    lines: lines({ item: optional(), account: optional(), description: optional(), quantity: text(), price: optional() }),
  }).noUnknown(),
  receipt: object({
    date: text(),
    customer: text(),
    branch: text(),
    amount: text(),
    pays: lines({ invoice: text(), amount: text() }),
  }).noUnknown(),
  bill: object({
    date: text(),
    supplier: text(),
    branch: text(),
    supplierNumber: text(),
    lines: lines({ account: text(), department: optional(), description: text(), amount: text() }),
  }).noUnknown(),
}

/** Posts a document to the demo company: a journal entry, an invoice, a receipt or a bill. */
export default route(async (event, app) => {
  const document = await jsonBody<DeskDocument>(event, body => {
    const shape = Object.hasOwn(shapes, body.kind) ? shapes[body.kind] : undefined
    return !!shape?.isValidSync((body as unknown as Record<string, unknown>)[body.kind], { strict: true })
  })
  return { number: await app.engine.post(document) }
})
