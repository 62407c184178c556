import { isAnswers } from '../../../utils/app'

interface Body {
  name: string
  answers?: Record<string, string>
}

/** Keeps answers under a name, or lets them go where none are given. */
export default route(async (event, app) => {
  const id = getRouterParam(event, 'id')!
  const { name, answers } = await jsonBody<Body>(
    event,
    body =>
      typeof body.name === 'string' &&
      body.name.trim() !== '' &&
      body.name.length <= 100 &&
      (body.answers === undefined || isAnswers(body.answers)),
  )
  await app.store.saveAnswers(id, name.trim(), answers)
  return app.store.savedAnswers(id)
})
