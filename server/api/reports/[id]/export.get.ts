/** The definition as a file; company data is not in it. */
export default route(async (context, event, app) => {
  const report = await app.store.report(context, partOf(event, 'id'))
  setResponseHeader(event, 'content-type', 'application/json; charset=utf-8')
  setResponseHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(`${report.name}.json`)}`)
  return JSON.stringify(report.definition, null, 2)
})
