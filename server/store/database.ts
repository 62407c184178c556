import type { PgDatabase, PgQueryResultHKT } from 'drizzle-orm/pg-core'
import type * as tables from './schema'

/** The store's tables, in its own engine or on a server. */
export type Database = PgDatabase<PgQueryResultHKT, typeof tables>
