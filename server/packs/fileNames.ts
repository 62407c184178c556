import type { PackDefinition } from '../../core/pack/definition'
import type { AnswerSurroundings } from '../../core/parameter/answers'
import { cleanFileName } from '../../core/parameter/fileName'
import { printedText } from '../../core/pack/texts'
import type { Answer } from '../../core/value/value'

/** Names of the files of a pack, by the pattern that it says: the pack's own name where it says none. */
export function fileNames(
  name: string,
  pack: PackDefinition,
  values: Readonly<Record<string, Answer>>,
  around: AnswerSurroundings,
): Record<'pdf' | 'zip' | 'xlsx', string> {
  const said = pack.out.name.trim() ? printedText(pack.out.name, pack.parameters, values, around) : name
  const plain = cleanFileName(said)
  return { pdf: `${plain}.pdf`, zip: `${plain}.zip`, xlsx: `${plain}.xlsx` }
}
