/** A letter as whoever gets it reads it. */
export default route(async (_context, event, app) => {
  const { envelope, letter } = await letterOf(event, app)
  return {
    ...envelope,
    sender: letter.from?.text ?? '',
    replyTo: letter.replyTo?.text,
    subject: letter.subject ?? '',
    messageId: letter.messageId ?? '',
    text: letter.text ?? '',
    html: letter.html || undefined,
    files: letter.attachments.map(each => ({ name: each.filename ?? '', type: each.contentType, size: each.size })),
  }
})
