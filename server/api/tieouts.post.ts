/** What the tie-outs of a definition as it is being edited come to, over all records. */
export default route(async (context, event, app) => app.pool.tieOuts(context, await askedInput(context, app, await bodyOf(event, 'asked'))))
