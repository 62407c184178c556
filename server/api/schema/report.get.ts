import { reportFileSchema } from '../../../core/plain/published'

/** The JSON Schema of a report's file, for editors and other checks. */
export default route(() => Promise.resolve(reportFileSchema()))
