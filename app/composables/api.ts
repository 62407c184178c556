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

/** Asks the server. @throws ApiError with its sentence, or one that says it cannot be reached */
export async function api<T>(path: string, options: { method?: string; body?: unknown; signal?: AbortSignal } = {}): Promise<T> {
  let response: Response
  try {
    response = await fetch(path, {
      method: options.method ?? 'GET',
      signal: options.signal,
      ...(options.body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(options.body) }),
    })
  } catch (error) {
    if (options.signal?.aborted) throw error
    throw new ApiError('The server cannot be reached; your changes are kept here and are saved as soon as it answers.', 0)
  }
  const text = await response.text()
  const data = text ? (JSON.parse(text) as Record<string, unknown>) : {}
  if (!response.ok)
    throw new ApiError(typeof data.message === 'string' ? data.message : `The server answered ${response.status}.`, response.status, data)
  return data as T
}
