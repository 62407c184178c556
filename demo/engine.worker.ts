import { runEngine } from '../server/sources/embedded/thread'
import { fillDemo } from './company/fill'
import { renewDemo } from './company/renew'
import { DeskError } from './desk/books'
import type { DeskDocument } from '../core/api/desk'
import { postAtDesk } from './desk/documents'
import { deskRole, secureDesk } from './desk/role'

await runEngine({
  prepare: async (db, schema, { scale }) => {
    if (scale !== undefined) await fillDemo(db, schema, scale as number)
    await renewDemo(db, schema)
    await secureDesk(db, schema)
  },
  write: async (db, schema, document) => {
    await db.exec(
      `begin transaction isolation level serializable; set local role ${deskRole}; set local search_path to ''; ` +
        `set local datestyle to 'ISO'`,
    )
    const number = await postAtDesk(db, schema, document as DeskDocument)
    await db.exec('commit')
    return number
  },
  refused: error => error instanceof DeskError,
})
