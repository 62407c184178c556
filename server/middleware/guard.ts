/** Until people sign in, only this machine may ask: a request under another name (Host) or from another page (Origin) is refused. */
export default defineEventHandler(event => {
  const host = getRequestHeader(event, 'host') ?? ''
  const origin = getRequestHeader(event, 'origin')
  const port = host.split(':').at(-1)
  const own = [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`, '127.0.0.1', 'localhost']
  if (!own.includes(host)) return refuse(event, `Estante answers only under 127.0.0.1 or localhost, not “${host.slice(0, 80)}”.`)
  if (origin && !own.some(name => origin === `http://${name}`))
    return refuse(event, `Estante takes no requests from other pages (“${origin.slice(0, 80)}”).`)
  if (getRequestHeader(event, 'sec-fetch-site') === 'cross-site') return refuse(event, 'Estante takes no requests from other pages.')
})

function refuse(event: Parameters<typeof setResponseStatus>[0], message: string) {
  setResponseStatus(event, 403)
  return { message }
}
