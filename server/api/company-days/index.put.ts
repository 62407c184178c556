import type { CompanyDays } from '../../../core/pack/companyDays'

/** Keeps how the company works; what is due is worked out anew. */
export default route(async (context, event, app) => {
  const { basedOn, ...days } = await bodyOf(event, 'companyDays')
  const version = await app.store.company.saveDays(context, days as CompanyDays, basedOn)
  await writeDown(context, event, app, 'company days changed', { what: days.zone })
  void app.schedule.look()
  return { version }
})
