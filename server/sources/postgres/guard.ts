import { hasSqlDetails, parse } from 'libpg-query'
import type { Asked } from '../reading/foundBooks'
import { refusedFunctions, tellingFunctions } from '../reading/refusedFunctions'
import { StatementError, ValueError } from '../reading/wireReader'
import { namesOf, type Node, visit } from './tree'

/*
 * Texts of authors on a server of somebody else's. There is no role of ours there that could only read, so each text is taken apart by
 * PostgreSQL's own parser before it goes to the server: one SELECT, over tables of this source, with functions of the system itself that
 * change nothing and tell nothing of the server.
 */

/** What a server says of its functions and operators. */
export interface Guarded {
  /** functions of the system that a text may call */
  allowed: ReadonlySet<string>
  /** functions and operators that others have made, and that could do anything */
  strange: { functions: ReadonlySet<string>; operators: ReadonlySet<string> }
  /** tables of the source, by schema and name, and by name alone */
  tables: ReadonlySet<string>
}

export const tableKey = (schema: string, name: string) => JSON.stringify([schema, name])

/** Asks a server what its functions do (manual, section 52.39). */
export async function readGuarded(db: Asked, schemas: readonly string[]): Promise<Omit<Guarded, 'tables'>> {
  const own = await db.query<{ name: string }>(
    `select proname::text as name from pg_proc p join pg_namespace n on n.oid = p.pronamespace
     where n.nspname = 'pg_catalog' group by proname
     having bool_and(p.provolatile <> 'v' and not p.prosecdef) and not proname = any($1::text[]) and not proname::text ~ $2`,
    [refusedFunctions, tellingFunctions],
  )
  // written in C by whoever installed an extension and without effect, they are taken for harmless
  const harmless = `(p.provolatile <> 'v' and not p.prosecdef and l.lanname in ('c', 'internal'))`
  const functions = await db.query<{ name: string }>(
    `select distinct proname::text as name
     from pg_proc p join pg_namespace n on n.oid = p.pronamespace join pg_language l on l.oid = p.prolang
     where n.nspname <> 'pg_catalog' and (n.nspname = any($1::text[]) or p.pronargs = 1) and not ${harmless}`,
    [schemas],
  )
  const operators = await db.query<{ name: string }>(
    `select distinct oprname::text as name
     from pg_operator o join pg_namespace n on n.oid = o.oprnamespace join pg_proc p on p.oid = o.oprcode
     join pg_language l on l.oid = p.prolang where n.nspname = any($1::text[]) and n.nspname <> 'pg_catalog' and not ${harmless}`,
    [schemas],
  )
  const names = (rows: { name: string }[]) => new Set(rows.map(row => row.name))
  return { allowed: names(own.rows), strange: { functions: names(functions.rows), operators: names(operators.rows) } }
}

/** Kinds of statements and clauses that are no reading. */
const refusedNodes: Record<string, string> = {
  IntoClause: 'makes a table (INTO)',
  intoClause: 'makes a table (INTO)',
  LockingClause: 'locks rows (FOR UPDATE, FOR SHARE)',
  RangeTableSample: 'reads a sample (TABLESAMPLE)',
  CurrentOfExpr: 'reads from a cursor',
}

/** @throws StatementError with one sentence, and ValueError where the sentence is all of ours */
export async function guard(text: string, known: Guarded): Promise<void> {
  let tree: Awaited<ReturnType<typeof parse>>
  try {
    tree = await parse(text)
  } catch (error) {
    if (hasSqlDetails(error)) throw new StatementError(error.message, (error.sqlDetails?.cursorPosition ?? -1) + 1 || undefined)
    throw new ValueError('The text is too deep to be taken apart; make it simpler.')
  }
  const [first, ...rest] = tree.stmts ?? []
  if (!first?.stmt || rest.length) throw new ValueError('The text has to be one statement, a SELECT; leave the others out.')
  const root = first.stmt as Record<string, unknown>
  if (!root.SelectStmt) throw new ValueError('The text has to be a SELECT; nothing else is run on a source.')
  const own = new Set<string>()
  visit(root, (kind, node) => {
    if (kind === 'CommonTableExpr') own.add(String(node.ctename))
  })
  for (const name of own)
    if (name.startsWith('pg_'))
      throw new ValueError(`A part of the text is called “${name}”, as only the server's own tables are; rename it.`)
  visit(root, (kind, node) => check(kind, node, own, known))
}

const strangeCall = (name: string) =>
  new ValueError(`The text calls “${name}”, which a report may not: only functions of the database itself that change nothing.`)

function check(kind: string, node: Node, own: ReadonlySet<string>, { allowed, strange, tables }: Guarded): void {
  const refused = refusedNodes[kind]
  if (refused) throw new ValueError(`The text ${refused}, which no report may do; leave that out.`)
  if (/^[A-Z]\w*Stmt$/.test(kind) && kind !== 'SelectStmt') throw new ValueError('The text does more than read; leave that out.')
  // a table stands under its kind, or unwrapped
  if (typeof node.relname === 'string') {
    const [schema, name] = [node.schemaname as string | undefined, node.relname]
    const there = schema === undefined ? own.has(name) || tables.has(name) : tables.has(tableKey(schema, name))
    if (node.catalogname !== undefined || !there)
      throw new ValueError(
        `The text reads “${schema === undefined ? '' : `${schema}.`}${name}”, which is not among the tables of this source; leave it ` +
          `out, or choose its schema under Sources.`,
      )
  }
  if (Array.isArray(node.funcname)) {
    const names = namesOf(node.funcname)
    const name = names.at(-1)!
    const system = names.length === 1 || (names.length === 2 && names[0] === 'pg_catalog')
    if (!system || !allowed.has(name) || (names.length === 1 && strange.functions.has(name))) throw strangeCall(names.join('.'))
  }
  if (kind === 'A_Expr' || kind === 'SubLink' || kind === 'SortBy') {
    const names = namesOf(node.name ?? node.operName ?? node.useOp)
    const foreign = names.length > 1 ? names[0] !== 'pg_catalog' : names.length === 1 && strange.operators.has(names[0]!)
    if (foreign)
      throw new ValueError(`The text uses the operator “${names.join('.')}”, which is not one of PostgreSQL itself; leave it out.`)
  }
  // a function can be called as if it were a column of its argument
  if (kind === 'ColumnRef' || kind === 'A_Indirection') {
    const name = namesOf(node.fields ?? node.indirection).at(-1)
    if (name !== undefined && strange.functions.has(name) && (kind === 'A_Indirection' || namesOf(node.fields).length > 1))
      throw strangeCall(name)
  }
}
