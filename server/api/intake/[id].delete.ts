/** Lets go of a file that is not taken in. */
export default route((context, event, app) => {
  app.brought.drop(context, partOf(event, 'id'))
  return {}
})
