/** How the company works: its clocks, working days and holidays. */
export default route(async (context, _event, app) => app.store.company.days(context))
