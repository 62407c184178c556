/** The sources are known before a page is shown: their days and names stand on most of them. */
export default defineNuxtPlugin(async () => {
  // a server that is away is told by the page that asks it next
  await useSources()
    .load()
    .catch(() => {})
})
