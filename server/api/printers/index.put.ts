import type { PrinterSettings } from '../../../core/pack/outside'

/** Keeps the printers of the company. */
export default route(async (context, event, app) => {
  const { printers, basedOn } = await bodyOf(event, 'printers')
  const version = await app.store.company.savePrinters(context, printers as PrinterSettings[], basedOn)
  await writeDown(context, event, app, 'printers changed', { what: printers.map(each => each.name).join(', ') })
  return { version }
})
