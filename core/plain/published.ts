import { mixed, object, string } from 'yup'
import { reportShape } from '../definition/schema'
import { type JsonSchema, SchemaMaker } from './jsonSchema'

/** Where a running program publishes the schema of a report's file. */
export const reportSchemaAddress = '/api/schema/report'

let made: JsonSchema | undefined

/** The JSON Schema of a report's file in a folder of definitions, for editors and other checks. */
export const reportFileSchema = (): JsonSchema =>
  (made ??= new SchemaMaker().make(
    object({ name: string().required(), published: mixed().oneOf([false, 'older']), definition: reportShape.required() }).noUnknown(),
    { $id: 'urn:estante:report', title: 'A report of Estante, as a file' },
  ))
