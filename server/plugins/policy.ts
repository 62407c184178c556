import { createHash } from 'node:crypto'

/** What the page may load and run: its own files, and the scripts that stand in it, known by their hashes (CSP Level 3). */
export default defineNitroPlugin(nitro => {
  nitro.hooks.hook('render:response', response => {
    const body = typeof response.body === 'string' ? response.body : ''
    const hashes = [...body.matchAll(/<script(?![^>]*\ssrc=)[^>]*>([\s\S]*?)<\/script>/g)].map(
      ([, script]) => `'sha256-${createHash('sha256').update(script!).digest('base64')}'`,
    )
    const policy = [
      "default-src 'none'",
      `script-src 'self' ${hashes.join(' ')}`,
      "style-src 'self' 'unsafe-inline'",
      "img-src 'self' blob: data:",
      "font-src 'self'",
      "connect-src 'self'",
      "worker-src 'self' blob:",
      "frame-src 'self'",
      "frame-ancestors 'self'",
      "base-uri 'none'",
      "form-action 'self'",
    ]
    if (response.headers) response.headers['content-security-policy'] = policy.join('; ')
  })
})
