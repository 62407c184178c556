import { integer, jsonb, pgTable, primaryKey, text, timestamp } from 'drizzle-orm/pg-core'

/** Where reports live; `place` orders them. */
export const shelves = pgTable('shelves', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  place: integer('place').notNull(),
})

export const reports = pgTable('reports', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  shelfId: text('shelf_id').notNull().references(() => shelves.id),
  place: integer('place').notNull(),
  /** the version that authors go on from */
  draft: integer('draft').notNull(),
  /** the version that readers run; none until it is published */
  published: integer('published'),
})

/** Every save; one that was based on an older draft is kept as a `conflict` beside it. */
export const versions = pgTable('report_versions', {
  reportId: text('report_id').notNull().references(() => reports.id, { onDelete: 'cascade' }),
  number: integer('number').notNull(),
  basedOn: integer('based_on'),
  state: text('state', { enum: ['saved', 'conflict'] }).notNull(),
  definition: jsonb('definition').notNull(),
  savedAt: timestamp('saved_at', { withTimezone: true }).notNull().defaultNow(),
}, table => [primaryKey({ columns: [table.reportId, table.number] })])
