/** One way to the server. Every failure becomes an AppError with the server's sentence. */

export class AppError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly where: Record<string, unknown> = {},
    readonly details: Record<string, unknown> = {},
  ) {
    super(message)
  }
}

/** Whether the server answers, and still knows who asks. */
export type Reached = 'here' | 'away' | 'signed-out'
let hear: (now: Reached) => void = () => {}
export function onReached(told: typeof hear) {
  hear = told
}
/** What keeps an act from being done though nothing is wrong with it. */
export const isBroken = (error: AppError) => error.code === 'offline' || error.code === 'not-signed-in'

function cookie(name: string): string {
  return (
    document.cookie
      .split('; ')
      .find((c) => c.startsWith(`${name}=`))
      ?.slice(name.length + 1) ?? ''
  )
}

async function send(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<Response> {
  const form = body instanceof FormData
  let response: Response
  try {
    response = await fetch(`/api${path}`, {
      method,
      signal,
      headers: {
        ...(method === 'GET' ? {} : { 'X-CSRFToken': cookie('csrftoken') }),
        ...(body !== undefined && !form ? { 'Content-Type': 'application/json' } : {}),
      },
      body: body === undefined ? undefined : form ? body : JSON.stringify(body),
    })
  } catch (error) {
    if ((error as Error).name === 'AbortError') throw error
    throw away(0)
  }
  if (response.ok || response.status === 304) {
    if (path !== '/session') hear('here') // it answers everybody
    return response
  }
  const told = await response.json().catch(() => null)
  if (told === null && response.status >= 502) throw away(response.status) // what stands before it answers in its place
  const code = told?.code ?? (response.status === 403 ? 'not-signed-in' : 'unknown') // the token has gone with the session
  if (path !== '/session') hear(code === 'not-signed-in' ? 'signed-out' : 'here')
  throw new AppError(
    response.status,
    code,
    told?.message ??
      (code === 'unknown' ? `The server answered ${response.status}.` : 'Your session has ended. Sign in and try again; nothing was lost.'),
    told?.where,
    told?.details,
  )
}

function away(status: number): AppError {
  hear('away')
  return new AppError(status, 'offline', 'The server cannot be reached. What you see stays; try again when the connection is back.')
}

export const api = {
  get: async <T>(path: string, signal?: AbortSignal): Promise<T> => (await send('GET', path, undefined, signal)).json(),
  text: async (path: string): Promise<string> => (await send('GET', path)).text(),
  post: async <T>(path: string, body?: unknown, signal?: AbortSignal): Promise<T> => (await send('POST', path, body, signal)).json(),
  patch: async <T>(path: string, body: unknown): Promise<T> => (await send('PATCH', path, body)).json(),
  put: async <T>(path: string, body: unknown): Promise<T> => (await send('PUT', path, body)).json(),
  delete: async <T>(path: string): Promise<T> => (await send('DELETE', path)).json(),
  /** Lines of JSON, each as soon as it is there; a last one may say that the rest failed. */
  async *lines(path: string, body: unknown, signal?: AbortSignal): AsyncGenerator<string> {
    const response = await send('POST', path, body, signal)
    const reader = response.body!.getReader()
    const decoder = new TextDecoder()
    let rest = ''
    for (;;) {
      const { done, value } = await reader.read()
      const parts = (rest + decoder.decode(value, { stream: !done })).split('\n')
      rest = parts.pop()!
      for (const part of parts) {
        if (part.startsWith('{"failed":')) {
          const { code, message, where } = JSON.parse(part).failed
          throw new AppError(response.status, code, message, where)
        }
        yield part
      }
      if (done) return
    }
  },
  packed: async (path: string, body: unknown, signal?: AbortSignal): Promise<Packed> =>
    unpack(await (await send('POST', path, body, signal)).arrayBuffer()),
  geometry: async (path: string, signal?: AbortSignal): Promise<Packed> =>
    unpack(await (await send('GET', path, undefined, signal)).arrayBuffer()),
}

export interface Packed {
  header: { origin: [number, number]; [more: string]: unknown }
  floats: Record<string, Float32Array>
  ints: Record<string, Uint32Array>
}

/** `magic(4) | uint32 header length | JSON header | sections`, as the server packs it. */
export function unpack(buffer: ArrayBuffer): Packed {
  const magic = new TextDecoder().decode(new Uint8Array(buffer, 0, 4))
  if (magic !== 'IRG1') throw new AppError(0, 'bad-geometry', 'The server sent geometry this page does not understand. Reload the page.')
  const length = new DataView(buffer).getUint32(4, true)
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 8, length)))
  const packed: Packed = { header, floats: {}, ints: {} }
  let at = 8 + length
  for (const s of header.sections as { name: string; type: 'f' | 'u'; shape: number[] }[]) {
    const count = s.shape.reduce((a, b) => a * b, 1)
    if (s.type === 'f') packed.floats[s.name] = new Float32Array(buffer, at, count)
    else packed.ints[s.name] = new Uint32Array(buffer, at, count)
    at += count * 4
  }
  return packed
}
