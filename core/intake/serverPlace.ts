/** Kinds of servers: one is read in place, of the other tables are copied. */
export type ServerKind = 'postgresql' | 'mysql'

/** Where a server is and who reads from it, as fields of a form. */
export interface ServerPlace {
  kind: ServerKind
  /** a name, an address, or the folder or file of a socket */
  host: string
  port: string
  database: string
  user: string
  password: string
  /** a word of `encryptions`; empty: checked, but for this machine */
  encryption: string
  /** file with the certificate of the authority that signed the server's */
  authority?: string
}

export const usualPorts: Record<ServerKind, string> = { postgresql: '5432', mysql: '3306' }

/** How a connection is encrypted, in the words of each kind of address. */
export const encryptions: Record<ServerKind, { word: string; label: string }[]> = {
  postgresql: [
    { word: '', label: 'Checked, but for this machine' },
    { word: 'verify-full', label: 'Encrypted and checked' },
    { word: 'require', label: 'Encrypted, whoever it is' },
    { word: 'disable', label: 'Off' },
  ],
  mysql: [
    { word: '', label: 'Checked, but for this machine' },
    { word: 'on', label: 'Encrypted and checked' },
    { word: 'off', label: 'Off' },
  ],
}

/** The address of a place, without its password, which goes beside it. */
export function addressOf({ kind, host, port, database, user, encryption }: ServerPlace): string {
  const [at, number] = [host.trim(), port.trim()]
  const socket = at.startsWith('/')
  const query = new URLSearchParams({
    ...(socket ? { [kind === 'mysql' ? 'socket' : 'host']: at } : {}),
    ...(socket && kind === 'postgresql' && number ? { port: number } : {}),
    ...(encryption ? { [kind === 'mysql' ? 'ssl' : 'sslmode']: encryption } : {}),
  }).toString()
  // an address of IPv6 stands in brackets
  const bare = at.includes(':') && !at.startsWith('[') ? `[${at}]` : at
  const where = socket ? (kind === 'mysql' ? 'localhost' : '') : `${bare}${number ? `:${number}` : ''}`
  return `${kind}://${encodeURIComponent(user.trim())}@${where}/${encodeURIComponent(database.trim())}${query ? `?${query}` : ''}`
}

/** A host as the parser of the web gives it: signs are encoded, and an address of IPv6 stands in brackets. */
const named = (host: string) => decodeURIComponent(host).replace(/^\[|\]$/g, '')

function isDecodable(text: string): boolean {
  try {
    decodeURIComponent(text)
    return true
  } catch {
    return false
  }
}

/** The place that an address means; nothing where the text is none. */
export function placeOf(address: string): ServerPlace | undefined {
  const scheme = /^(postgres(?:ql)?|mysql|mariadb):\/\//i.exec(address.trim())?.[1]?.toLowerCase()
  // a host of its own stands for none, which the parser of the web would not take
  const none = 'none.invalid'
  const plain = address.trim().replace(/@\//, `@${none}/`)
  if (!/:\/\/[^/]/.test(plain) || !scheme || !URL.canParse(plain) || !isDecodable(plain)) return undefined
  const url = new URL(plain)
  const kind = scheme.startsWith('postgres') ? 'postgresql' : 'mysql'
  const asked = url.searchParams
  const authority = asked.get(kind === 'mysql' ? 'ssl-ca' : 'sslrootcert')
  return {
    kind,
    host: asked.get('host') ?? asked.get('socket') ?? (url.hostname === none ? '' : named(url.hostname)),
    port: asked.get('port') ?? (url.port || usualPorts[kind]),
    database: decodeURIComponent(url.pathname.slice(1)),
    user: decodeURIComponent(url.username),
    password: decodeURIComponent(url.password),
    encryption: asked.get(kind === 'mysql' ? 'ssl' : 'sslmode') ?? '',
    ...(authority ? { authority } : {}),
  }
}
