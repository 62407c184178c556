/** An answer of the server that is a sentence for the person at the screen. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly data: Record<string, unknown> = {},
  ) {
    super(message)
  }
}

interface ApiOptions {
  method?: string
  /** a file is sent as it is, all else as JSON */
  body?: unknown
  signal?: AbortSignal
}

/** Asks the server for bytes. @throws ApiError with its sentence */
export async function apiBytes(path: string, options: ApiOptions = {}): Promise<Uint8Array<ArrayBuffer>> {
  const response = await asked(path, options)
  if (!response.ok) await refused(response)
  return new Uint8Array(await response.arrayBuffer())
}

/** Asks the server. @throws ApiError with its sentence, or one that says it cannot be reached */
export async function api<T>(path: string, options: ApiOptions = {}): Promise<T> {
  const response = await asked(path, options)
  if (!response.ok) await refused(response)
  const text = await response.text()
  return (text ? JSON.parse(text) : {}) as T
}

async function asked(path: string, options: ApiOptions): Promise<Response> {
  const as = lookingAs()
  const isFile = options.body instanceof Blob
  try {
    return await fetch(path, {
      method: options.method ?? 'GET',
      signal: options.signal,
      headers: {
        ...(options.body === undefined ? {} : { 'content-type': isFile ? 'application/octet-stream' : 'application/json' }),
        ...(as ? { 'x-estante-as': as.id } : {}),
      },
      ...(options.body === undefined ? {} : { body: options.body instanceof Blob ? options.body : JSON.stringify(options.body) }),
    })
  } catch (error) {
    if (options.signal?.aborted) throw error
    throw new ApiError(t('api.theServerCannotBeReached'), 0)
  }
}

async function refused(response: Response): Promise<never> {
  // whoever has to sign in comes back to where they were
  if (response.status === 401 && !/^\/(sign-in|first|account)/.test(window.location.pathname))
    window.location.assign(`/sign-in?to=${encodeURIComponent(window.location.pathname + window.location.search)}`)
  const data = (await response.json().catch(() => ({}))) as Record<string, unknown>
  throw new ApiError(
    typeof data.message === 'string' ? data.message : t('api.theServerAnswered', { status: response.status }),
    response.status,
    data,
  )
}
