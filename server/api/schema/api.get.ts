import { openApi } from '../../description/openApi'

/** The description of the API for programs, in OpenAPI 3.1. */
export default route(() => Promise.resolve(openApi()))
