import { ValidationError } from 'yup'
import { readSettings } from '../../core/books/settings'
import type { SourceSettings } from '../../core/books/settings'
import { settingsFault } from '../../core/model/settings'
import { faultOf } from '../../core/value/checking'
import type { Context } from '../access/context'
import { StoreError } from '../store/records'
import type { Sources } from './sources'

/** Keeps relations, captions, formats, calculated fields and the books with a source whose tables they fit. @throws StoreError */
export async function keepSettings(
  context: Context,
  sources: Sources,
  source: string,
  said: unknown,
  basedOn?: number,
): Promise<{ value: SourceSettings; version: number }> {
  try {
    const value = readSettings(said)
    const fault = settingsFault(value, await sources.get(source).catalog(context))
    if (fault) throw new StoreError(fault, 422)
    return { value, version: await sources.saveSettings(context, source, value, basedOn) }
  } catch (error) {
    if (error instanceof ValidationError) throw new StoreError(`The settings of the source have a fault: ${faultOf(error)}.`, 422)
    throw error
  }
}
