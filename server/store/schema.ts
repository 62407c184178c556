import {
  type AnyPgColumn,
  bigint,
  boolean,
  customType,
  date,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core'

/** Where reports live; `place` orders them. */
export const shelves = pgTable('shelves', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  place: integer('place').notNull(),
  /** whose it is, where it is a team's; else everybody's */
  teamId: text('team_id').references((): AnyPgColumn => teams.id),
  /** what is published on it waits until a second person releases it */
  release: boolean('release').notNull().default(false),
})

export const reports = pgTable('reports', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  shelfId: text('shelf_id')
    .notNull()
    .references(() => shelves.id),
  place: integer('place').notNull(),
  /** the version that authors go on from */
  draft: integer('draft').notNull(),
  /** the version that readers run; none until it is published */
  published: integer('published'),
  /** since when it is put away; its name is free for others meanwhile, and stands in `removedName` */
  removedAt: timestamp('removed_at', { withTimezone: true }),
  removedName: text('removed_name'),
  /** who made it; nobody where nobody could sign in, or it came with the program */
  ownerId: text('owner_id'),
  /** who edits it besides: all authors, those of some teams, or nobody */
  editing: text('editing', { enum: ['all', 'teams', 'owner'] })
    .notNull()
    .default('all'),
  /** it is published to everybody, else to some teams */
  toAll: boolean('to_all').notNull().default(true),
})

/** Teams that run a report, or edit it. */
export const reportTeams = pgTable(
  'report_teams',
  {
    reportId: text('report_id')
      .notNull()
      .references(() => reports.id, { onDelete: 'cascade' }),
    teamId: text('team_id')
      .notNull()
      .references((): AnyPgColumn => teams.id, { onDelete: 'cascade' }),
    right: text('right', { enum: ['run', 'edit'] }).notNull(),
  },
  table => [primaryKey({ columns: [table.reportId, table.teamId, table.right] }), index('report_teams_team').on(table.teamId)],
)

/** What was published when, by whom, and what had changed; what waits for a second person, and who that was. */
export const publications = pgTable(
  'publications',
  {
    id: text('id').primaryKey(),
    reportId: text('report_id')
      .notNull()
      .references(() => reports.id, { onDelete: 'cascade' }),
    version: integer('version').notNull(),
    state: text('state', { enum: ['waiting', 'published', 'refused', 'overtaken'] }).notNull(),
    /** sentences */
    changes: jsonb('changes').notNull(),
    personId: text('person_id'),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
    secondId: text('second_id'),
    secondAt: timestamp('second_at', { withTimezone: true }),
  },
  table => [index('publications_report').on(table.reportId)],
)

/** Every save; one that was based on an older draft is kept as a `conflict` beside it. */
export const versions = pgTable(
  'report_versions',
  {
    reportId: text('report_id')
      .notNull()
      .references(() => reports.id, { onDelete: 'cascade' }),
    number: integer('number').notNull(),
    basedOn: integer('based_on'),
    state: text('state', { enum: ['saved', 'conflict'] }).notNull(),
    definition: jsonb('definition').notNull(),
    /** what its author called it */
    name: text('name'),
    savedAt: timestamp('saved_at', { withTimezone: true }).notNull().defaultNow(),
  },
  table => [primaryKey({ columns: [table.reportId, table.number] })],
)

const bytes = customType<{ data: Uint8Array; driverData: Uint8Array }>({ dataType: () => 'bytea' })

/** The catalog of a source as it was last read: a report can be worked on while the source is away. */
export const sources = pgTable('sources', { id: text('id').primaryKey(), catalog: jsonb('catalog') })

/** Sources that people have added; those that ship with the program are not among them. */
export const connections = pgTable('connections', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  kind: text('kind').notNull(),
  place: integer('place').notNull(),
  /** what its kind needs to open it */
  options: jsonb('options').notNull(),
})

/**
 * What is said once for all reports or for all of a source; every change makes a new version, so that nobody overwrites what
 * they have not seen.
 */
export const settings = pgTable('settings', {
  id: text('id').primaryKey(),
  version: integer('version').notNull(),
  value: jsonb('value').notNull(),
})

/** Rows that a report is designed against: company data, apart from its definition, and apart by what whoever pinned them sees. */
export const pinnedRows = pgTable(
  'pinned_rows',
  {
    reportId: text('report_id')
      .notNull()
      .references(() => reports.id, { onDelete: 'cascade' }),
    /** tells apart what is seen; empty where all is */
    sight: text('sight').notNull().default(''),
    answers: jsonb('answers').notNull(),
    rows: bytes('rows').notNull(),
    pinnedAt: timestamp('pinned_at', { withTimezone: true }).notNull(),
  },
  table => [primaryKey({ columns: [table.reportId, table.sight] })],
)

/** Answers of a report that somebody keeps under a name. */
export const savedAnswers = pgTable(
  'saved_answers',
  {
    reportId: text('report_id')
      .notNull()
      .references(() => reports.id, { onDelete: 'cascade' }),
    /** whose they are; nobody's where nobody signs in */
    personId: text('person_id').notNull().default(''),
    name: text('name').notNull(),
    answers: jsonb('answers').notNull(),
  },
  table => [primaryKey({ columns: [table.reportId, table.personId, table.name] })],
)

/** Addresses under which a spreadsheet reads a report's rows again and again. The secret itself is not kept. */
export const refreshAddresses = pgTable('refresh_addresses', {
  id: text('id').primaryKey(),
  reportId: text('report_id')
    .notNull()
    .references(() => reports.id, { onDelete: 'cascade' }),
  /** in whose name it reads; nobody's where nobody could sign in */
  personId: text('person_id'),
  label: text('label').notNull(),
  tokenHash: text('token_hash').notNull().unique(),
  answers: jsonb('answers').notNull(),
  output: jsonb('output').notNull(),
  /** the last day on which it answers */
  until: date('until').notNull(),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  revokedAt: timestamp('revoked_at', { withTimezone: true }),
  lastUsedAt: timestamp('last_used_at', { withTimezone: true }),
  uses: integer('uses').notNull().default(0),
})

/** People who sign in; one who was removed keeps the row for what is written down of them, and cannot sign in. */
export const people = pgTable('people', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  /** what they sign in with, in small letters; free again once they are removed */
  signIn: text('sign_in').unique(),
  role: text('role', { enum: ['reader', 'author', 'administrator'] }).notNull(),
  /** scrypt, with its own salt; none where they cannot sign in by password */
  password: text('password'),
  /** who they are for the provider that signs them in: its issuer and its own name for them */
  subject: text('subject').unique(),
  /** the secret of their second factor, sealed; one that is begun and not shown to work yet; the last step whose code was taken */
  secondSecret: text('second_secret'),
  secondPending: text('second_pending'),
  secondStep: bigint('second_step', { mode: 'number' }),
  /** SHA-256 of codes for when it is lost, as a list */
  recovery: jsonb('recovery'),
  /** the language of the interface that they want; that of their browser where none */
  language: text('language', { enum: ['en', 'pt'] }),
  /** invented, for a demo: signs in with a click, in its own folder only */
  demo: boolean('demo').notNull().default(false),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  removedAt: timestamp('removed_at', { withTimezone: true }),
})

/** Teams of people; `attributes` are lists of texts by their names, which guards ask for. */
export const teams = pgTable('teams', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  attributes: jsonb('attributes').notNull(),
})

/** Who is in which team. */
export const teamPeople = pgTable(
  'team_people',
  {
    teamId: text('team_id')
      .notNull()
      .references(() => teams.id, { onDelete: 'cascade' }),
    personId: text('person_id')
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
  },
  table => [primaryKey({ columns: [table.teamId, table.personId] }), index('team_people_person').on(table.personId)],
)

/** Who is signed in where. The token itself is with the browser alone. */
export const sessions = pgTable(
  'sessions',
  {
    /** SHA-256 of the token */
    token: text('token').primaryKey(),
    /** names it in lists, which say nothing of its token */
    id: text('id').notNull().unique(),
    personId: text('person_id')
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
    usedAt: timestamp('used_at', { withTimezone: true }).notNull().defaultNow(),
    endsAt: timestamp('ends_at', { withTimezone: true }).notNull(),
    /** the program that signed in, as it calls itself */
    about: text('about').notNull(),
    /** it was begun by way of a provider */
    provided: boolean('provided').notNull().default(false),
  },
  table => [index('sessions_person').on(table.personId)],
)

/** Tokens of other programs, which ask in the name of a person; the token itself is told once. */
export const tokens = pgTable(
  'tokens',
  {
    /** SHA-256 of the token */
    token: text('token').primaryKey(),
    id: text('id').notNull().unique(),
    personId: text('person_id')
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    /** what it may do at most; never more than its person */
    scope: text('scope', { enum: ['reader', 'author', 'administrator'] }).notNull(),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
    /** the last day on which it is taken */
    until: date('until').notNull(),
    usedAt: timestamp('used_at', { withTimezone: true }),
  },
  table => [index('tokens_person').on(table.personId)],
)

/**
 * What was done by whom, append only. Each entry holds the hash of the one before it; what is personal stands apart, so that it can be
 * taken out without breaking the chain.
 */
export const audit = pgTable('audit', {
  number: integer('number').primaryKey(),
  at: timestamp('at', { withTimezone: true }).notNull(),
  kind: text('kind').notNull(),
  /** what it was done to, as people call it, and facts about it; nothing about the person */
  about: jsonb('about').notNull(),
  /** who, and from where; none once it was taken out */
  personal: jsonb('personal'),
  /** makes the hash of what is personal one that cannot be guessed; goes with it */
  salt: text('salt'),
  personalHash: text('personal_hash').notNull(),
  hash: text('hash').notNull(),
})

/**
 * Runs: who asked for what, how far it is, what it came to. Their pages and rows are files in a folder of each; `folder` names the place
 * where that is, since an Estante can only go on with runs whose files it reaches.
 */
export const runs = pgTable(
  'runs',
  {
    id: text('id').primaryKey(),
    folder: text('folder').notNull(),
    /** none where it is a report that is not kept, or not any more */
    reportId: text('report_id').notNull(),
    version: integer('version'),
    name: text('name').notNull(),
    layout: text('layout'),
    /** tells people apart whose runs take turns; their id where they signed in */
    person: text('person').notNull(),
    personId: text('person_id'),
    /** what they are called, as it was then */
    personName: text('person_name'),
    /** the team as which an author looked at it */
    lookedAs: jsonb('looked_as'),
    answers: jsonb('answers').notNull(),
    /** the answers in words, a text each */
    asked: jsonb('asked').notNull(),
    /** sources that it reads, what was seen of each where that was not all, and the generation of each that has some */
    sources: jsonb('sources').notNull(),
    sights: jsonb('sights').notNull(),
    generations: jsonb('generations').notNull(),
    state: text('state', { enum: ['waiting', 'running', 'done', 'failed', 'cancelled'] }).notNull(),
    /** the Estante that works at it, until when it is taken to be alive, and how often it was begun */
    instance: text('instance'),
    leaseUntil: timestamp('lease_until', { withTimezone: true }),
    attempt: integer('attempt').notNull().default(0),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull(),
    endedAt: timestamp('ended_at', { withTimezone: true }),
    /** somebody wants it stopped, wherever it runs */
    stopped: boolean('stopped').notNull().default(false),
    pages: integer('pages').notNull().default(0),
    /** of its result: records by level, milliseconds by stage, tie-outs */
    rows: jsonb('rows'),
    ms: jsonb('ms'),
    tieOuts: jsonb('tie_outs'),
    /** why it came to nothing */
    sentences: jsonb('sentences'),
    /** files that were made of it: what was asked for, and their names in its folder */
    files: jsonb('files').notNull(),
    /** it stays, whatever is cleaned up */
    pinned: boolean('pinned').notNull().default(false),
    /** the run of a pack that it is part of, and which of its reports: it is worked at with that, and goes with it */
    packRunId: text('pack_run_id').references((): AnyPgColumn => packRuns.id, { onDelete: 'cascade' }),
    part: text('part'),
  },
  table => [
    index('runs_pack').on(table.packRunId),
    index('runs_created').on(table.createdAt),
    index('runs_report').on(table.reportId),
    index('runs_state').on(table.state),
  ],
)

/** Reports that run together: what they are asked, what is made of them, when, and whom they go to. */
export const packs = pgTable('packs', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  place: integer('place').notNull(),
  version: integer('version').notNull(),
  definition: jsonb('definition').notNull(),
  /** in whose name it runs when it is due: whoever saved it last */
  ownerId: text('owner_id'),
  /** when it begins to be due; nothing before that is made up */
  since: timestamp('since', { withTimezone: true }),
})

/** Occasions of packs that were worked off, or left out because they were missed. Each once: that is what the key is for. */
export const packOccasions = pgTable(
  'pack_occasions',
  {
    packId: text('pack_id')
      .notNull()
      .references(() => packs.id, { onDelete: 'cascade' }),
    occasion: text('occasion').notNull(),
    /** `before` is what had happened before the pack began to wait for it */
    state: text('state', { enum: ['begun', 'left', 'before'] }).notNull(),
    /** the run of the pack, where it was begun */
    runId: text('run_id'),
    at: timestamp('at', { withTimezone: true }).notNull(),
  },
  table => [primaryKey({ columns: [table.packId, table.occasion] })],
)

/** Runs of packs. */
export const packRuns = pgTable(
  'pack_runs',
  {
    id: text('id').primaryKey(),
    packId: text('pack_id').notNull(),
    name: text('name').notNull(),
    /** the pack as it was */
    definition: jsonb('definition').notNull(),
    /** the time or event that it was due at; none where somebody asked for it */
    occasion: text('occasion'),
    folder: text('folder').notNull(),
    person: text('person').notNull(),
    personId: text('person_id'),
    personName: text('person_name'),
    answers: jsonb('answers').notNull(),
    asked: jsonb('asked').notNull(),
    /** nothing is sent */
    dry: boolean('dry').notNull().default(false),
    state: text('state', { enum: ['waiting', 'running', 'held', 'sending', 'done', 'failed', 'dropped', 'cancelled'] }).notNull(),
    instance: text('instance'),
    leaseUntil: timestamp('lease_until', { withTimezone: true }),
    attempt: integer('attempt').notNull().default(0),
    stopped: boolean('stopped').notNull().default(false),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull(),
    /** the moment that all its rows are of */
    moment: timestamp('moment', { withTimezone: true }),
    endedAt: timestamp('ended_at', { withTimezone: true }),
    /** how far it is: what it does, how much of it is done, of how much */
    progress: jsonb('progress'),
    /** its tie-outs, those of its reports too */
    ties: jsonb('ties'),
    sentences: jsonb('sentences'),
    files: jsonb('files').notNull(),
    /** who let it go or dropped it, when, and why */
    decidedBy: text('decided_by'),
    decidedAt: timestamp('decided_at', { withTimezone: true }),
    reason: text('reason'),
  },
  table => [
    uniqueIndex('pack_runs_occasion').on(table.packId, table.occasion),
    index('pack_runs_created').on(table.createdAt),
    index('pack_runs_state').on(table.state),
  ],
)

/**
 * What goes out of a run of a pack: a letter, a print, a file. Its state is written before and after, so that what was interrupted in
 * between is known to be uncertain.
 */
export const deliveries = pgTable(
  'deliveries',
  {
    id: text('id').primaryKey(),
    packRunId: text('pack_run_id')
      .notNull()
      .references(() => packRuns.id, { onDelete: 'cascade' }),
    place: integer('place').notNull(),
    /** which of the pack's recipients it is for */
    recipient: text('recipient').notNull(),
    kind: text('kind', { enum: ['mail', 'print', 'file'] }).notNull(),
    /** addresses, a printer, a path */
    to: jsonb('to').notNull(),
    /** what it is about, in the words of whoever gets it: a subject, a file's name */
    about: text('about').notNull(),
    /** all else that it is made of */
    content: jsonb('content').notNull(),
    state: text('state', { enum: ['ready', 'sending', 'sent', 'refused', 'uncertain', 'unaddressed', 'dropped'] }).notNull(),
    /** made from the pack, the occasion and the record: a repeat is recognised by it */
    messageId: text('message_id').notNull(),
    attempts: integer('attempts').notNull().default(0),
    /** not before then is it tried again */
    notBefore: timestamp('not_before', { withTimezone: true }),
    /** what was answered, in the words of the server, the printer or the system */
    said: text('said'),
    at: timestamp('at', { withTimezone: true }),
  },
  table => [uniqueIndex('deliveries_place').on(table.packRunId, table.place), index('deliveries_state').on(table.state)],
)
