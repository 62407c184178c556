import { finished } from 'node:stream/promises'
import type { FileHandle } from 'node:fs/promises'
import { type H3Event, sendStream } from 'h3'

/** Answers with a file that is open, and closes it: when all of it is sent, and when the reader goes away. */
export async function sendFile(event: H3Event, file: FileHandle): Promise<null> {
  const { res } = event.node
  if (res.closed) {
    await file.close()
    return null
  }
  const content = file.createReadStream()
  const over = finished(content)
  res.on('close', () => content.destroy())
  // what sends it waits for an end that does not come when the reader has gone
  void sendStream(event, content).catch(() => {})
  await over.catch((error: Error) => {
    if (!res.closed) throw error
  })
  return null
}
