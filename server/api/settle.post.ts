import { settleAnswers } from '../../core/parameter/narrowing'
import { readChoices } from '../runs/choices'
import { type Asked, askedInput, isAsked } from '../utils/asked'

/** Answers that are still among their choices; what was let go, each with a sentence. */
export default route(async (event, app) => {
  const input = await askedInput(app, await jsonBody<Asked>(event, isAsked))
  return settleAnswers(input.definition.parameters, input.answers, async (parameter, values, narrowing) => {
    const { choices } = await readChoices(app.engine, input, parameter.name, { limit: values.length, values, narrowing })
    return choices.map(choice => choice.value)
  })
})
