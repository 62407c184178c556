/** Where letters go; its password is not told. */
export default route(async (context, _event, app) => {
  const { value, version } = await app.store.company.mail(context)
  if (!value) return { version }
  const { password, ...settings } = value
  return { version, settings: { ...settings, ...(password ? { hasPassword: true } : {}) } }
})
