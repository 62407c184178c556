/** The letterhead that all reports share. */
export default route(async (_, app) => ({ letterhead: (await app.store.letterhead()) ?? null }))
