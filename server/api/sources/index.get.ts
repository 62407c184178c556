import { NamedSource } from '../../sources/namedSource'

/** The sources that there are, each with its day and whether it can be read. */
export default route((_context, _event, app) =>
  app.sources
    .list()
    .map(source => ({
      id: source.id,
      name: source.name,
      kind: source.kind,
      today: source.clock(),
      desk: source.desk !== undefined,
      ...(source instanceof NamedSource ? { of: source.options.of } : {}),
      ...source.about?.(),
      ...source.state(),
    })),
)
