import { readChoices } from '../runs/choices'

/** A page of a parameter's choices, narrowed by the answers above it. */
export default route(async (context, event, app) => {
  const { parameter, search, offset = 0, values, count, ...asked } = await bodyOf(event, 'choices')
  return readChoices(context, app, await askedInput(context, app, asked), parameter, {
    limit: 100,
    search,
    offset,
    ...(values ? { values } : {}),
    count,
  })
})
