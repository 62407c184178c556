import { footnotePrefix } from '../../../core/definition/edits/footnotes'
import { answerWords, readAnswers } from '../../../core/parameter/answers'

/** All runs that are kept, the newest first, with how far they are. */
export default route(async (context, _event, app) =>
  (await app.runs.list(context)).map(run => {
    const { definition, answers, today, catalog, labels } = run.input
    const { values } = readAnswers(definition.parameters, answers, {
      today,
      language: definition.language,
      ...(catalog.calendar ? { calendar: catalog.calendar } : {}),
      ...(labels ? { labels } : {}),
    })
    return {
      id: run.id,
      report: run.report,
      name: run.input.name,
      layout: run.input.layout,
      answers,
      state: run.state,
      pages: run.places.length - 1,
      startedAt: run.startedAt,
      sentences: run.sentences,
      rows: run.result ? Object.values(run.result.rows)[0] : undefined,
      ms: run.result ? Object.values(run.result.ms).reduce((sum, each) => sum + each, 0) : undefined,
      ties: run.result?.tieOuts?.length
        ? { count: run.result.tieOuts.length, failed: run.result.tieOuts.filter(each => !each.holds).map(each => each.name) }
        : undefined,
      asked: [
        ...definition.parameters
          .filter(parameter => !parameter.hidden && answers[parameter.name])
          .map(parameter => `${parameter.label}: ${answerWords(parameter, values)}`),
        ...(Object.keys(answers).some(name => name.startsWith(footnotePrefix)) ? ['footnotes said otherwise'] : []),
      ],
      files: [...run.files].map(([key, { format, state }]) => ({
        format,
        state,
        query: new URLSearchParams(
          Object.entries(JSON.parse(key) as Record<string, unknown>).map(([name, value]) => [name, value === true ? 'yes' : String(value)]),
        ).toString(),
      })),
    }
  }),
)
