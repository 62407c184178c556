/** Who signs people in beside Estante, without its secret. */
export default route(async (context, event, app) => {
  const { value, version } = await app.store.provider(context)
  const { secret: _, ...settings } = value ?? { secret: '' }
  return { version, callback: `${originOf(event)}/oidc/callback`, ...(value ? { settings } : {}) }
})
