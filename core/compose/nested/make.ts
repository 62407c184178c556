import { layoutNamed } from '../../definition/walk'
import { type AssembledReport, assembleReport } from '../assemble'
import { pageSize } from '../paperSize'
import type { NestedReport, NestedReports, NestedSource } from './reports'

/** A report made ready to be nested, its layouts kept by the widths in which it stands. */
export function nestedReport(source: NestedSource, nested?: NestedReports): NestedReport {
  const known = new Map<number, { layout: AssembledReport['layout']; levels: AssembledReport['tree']['levels'] }>()
  return {
    ...source,
    ...(nested?.size ? { nested } : {}),
    laidOut: width => {
      let found = known.get(width)
      if (!found) {
        const { layout, tree } = assembleReport(narrowed(source, width), source.catalog)
        known.set(width, (found = { layout, levels: tree.levels }))
      }
      return found
    },
  }
}

/** Its layout on a page that is as wide as where it stands, with nothing around it. */
function narrowed({ definition, layout: wanted }: NestedSource, width: number): NestedSource['definition'] {
  const { name, theme, blocks, page } = layoutNamed(definition, wanted)
  const { height } = pageSize(page)
  const margins = { top: 0, right: 0, bottom: 0, left: 0 }
  return {
    ...definition,
    layouts: [{ name, blocks, ...(theme ? { theme } : {}), page: { size: 'own', orientation: 'portrait', width, height, margins } }],
    layout: name,
  }
}
