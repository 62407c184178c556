import { answerText } from '../../../../core/parameter/answers'
import { packAnswers } from '../../../../core/pack/feed'
import { aroundOf, packSources } from '../../../packs/parts'

/** What a pack asks, with the answers that it takes by itself, and the fiscal periods that it may ask for. */
export default route(async (context, event, app) => {
  const { definition } = await app.store.packs.find(context, partOf(event, 'id'))
  const around = await aroundOf(context, app, await packSources(context, app, definition))
  const { values } = packAnswers(definition, {}, around)
  return {
    parameters: definition.parameters.map(each => ({ ...each, answer: answerText(each, values) })),
    ...(around.calendar ? { calendar: around.calendar } : {}),
  }
})
