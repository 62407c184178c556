import { settleAnswers } from '../../core/parameter/narrowing'
import { readChoices } from '../runs/choices'

/** Answers that are still among their choices; what was let go, each with a sentence. */
export default route(async (context, event, app) => {
  const input = await askedInput(context, app, await bodyOf(event, 'asked'))
  return settleAnswers(input.definition.parameters, input.answers, async (parameter, values, narrowing) => {
    const { choices } = await readChoices(context, app, input, parameter.name, { limit: values.length, values, narrowing })
    return choices.map(choice => choice.value)
  })
})
