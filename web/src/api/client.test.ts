import { afterEach, describe, expect, it, vi } from 'vitest'
import { api, onReached, AppError, unpack } from './client'

function packed(header: object, sections: (Float32Array | Uint32Array)[]): ArrayBuffer {
  let text = JSON.stringify(header)
  text += ' '.repeat((8 - ((new TextEncoder().encode(text).length + 8) % 8)) % 8)
  const head = new TextEncoder().encode(text)
  const size = 8 + head.length + sections.reduce((n, s) => n + s.byteLength, 0)
  const bytes = new Uint8Array(size)
  bytes.set(new TextEncoder().encode('IRG1'))
  new DataView(bytes.buffer).setUint32(4, head.length, true)
  bytes.set(head, 8)
  let at = 8 + head.length
  for (const s of sections) {
    bytes.set(new Uint8Array(s.buffer, s.byteOffset, s.byteLength), at)
    at += s.byteLength
  }
  return bytes.buffer
}

afterEach(() => vi.unstubAllGlobals())
const answer = (status: number, body: unknown) =>
  vi.stubGlobal(
    'fetch',
    vi.fn(async () => new Response(JSON.stringify(body), { status })),
  )

describe('packed geometry', () => {
  it('is read section by section', () => {
    const buffer = packed(
      {
        origin: [412000, 687000],
        sections: [
          { name: 'points', type: 'f', shape: [2, 3] },
          { name: 'triangles', type: 'u', shape: [1, 3] },
        ],
      },
      [new Float32Array([1, 2, 3, 4, 5, 6]), new Uint32Array([0, 1, 0])],
    )
    const p = unpack(buffer)
    expect([...p.floats.points!]).toEqual([1, 2, 3, 4, 5, 6])
    expect([...p.ints.triangles!]).toEqual([0, 1, 0])
    expect(p.header.origin).toEqual([412000, 687000])
  })
  it('refuses what it does not know', () => {
    expect(() => unpack(new TextEncoder().encode('GIF89a-and-more').buffer as ArrayBuffer)).toThrow(/does not understand/)
  })
})

describe('answers of the server', () => {
  it('become one kind of error with the sentence, the place and both values', async () => {
    answer(409, { code: 'changed-since', message: 'Ben changed a PI.', where: { pi: 1 }, details: { theirs: { radius: 5 } } })
    const error = await api.patch('/x', {}).catch((e) => e as AppError)
    expect(error).toBeInstanceOf(AppError)
    expect(error).toMatchObject({
      status: 409,
      code: 'changed-since',
      message: 'Ben changed a PI.',
      where: { pi: 1 },
      details: { theirs: { radius: 5 } },
    })
  })
  it('say so when there is no connection, and when the answer is no JSON', async () => {
    vi.stubGlobal(
      'fetch',
      vi.fn(async () => Promise.reject(new TypeError('network'))),
    )
    await expect(api.get('/x')).rejects.toMatchObject({ code: 'offline', message: expect.stringContaining('cannot be reached') })
    vi.stubGlobal(
      'fetch',
      vi.fn(async () => new Response('<html>', { status: 500 })),
    )
    await expect(api.get('/x')).rejects.toMatchObject({ status: 500, message: 'The server answered 500.' })
  })
  it('tell whether the server is there and knows who asks', async () => {
    const heard: string[] = []
    onReached((now) => heard.push(now))
    const answers = [
      new Response('<html>', { status: 502 }), // by what stands before a server that is away
      new Response('{"code":"not-signed-in","message":"m"}', { status: 401 }),
      new Response('<html>', { status: 403 }), // the token has gone
      new Response('{"code":"not-allowed","message":"m"}', { status: 403 }),
      new Response('{}', { status: 200 }),
    ]
    vi.stubGlobal('fetch', vi.fn(async () => answers.shift()!)) // prettier-ignore
    const codes = []
    for (let i = 0; i < 5; i++) codes.push(await api.get('/x').then(() => '', (e) => e.code)) // prettier-ignore
    expect(codes).toEqual(['offline', 'not-signed-in', 'not-signed-in', 'not-allowed', ''])
    expect(heard).toEqual(['away', 'signed-out', 'signed-out', 'here', 'here'])
  })
  it('send the token with writes and the body as JSON or as a form', async () => {
    document.cookie = 'csrftoken=abc'
    const fetcher = vi.fn<(url: string, init: RequestInit) => Promise<Response>>(async () => new Response('{}', { status: 200 }))
    vi.stubGlobal('fetch', fetcher)
    await api.post('/x', { a: 1 })
    await api.post('/x', new FormData())
    await api.get('/x')
    const [json, form, read] = fetcher.mock.calls.map((c) => c[1])
    expect(json!.headers).toEqual({ 'X-CSRFToken': 'abc', 'Content-Type': 'application/json' })
    expect(form!.headers).toEqual({ 'X-CSRFToken': 'abc' })
    expect(read!.headers).toEqual({})
  })
})

const spoken = new TextEncoder().encode('{"a":"2 m²"}\n{"b":2}\n')
function answered(chunks: Uint8Array[], status = 200): Response {
  return new Response(
    new ReadableStream({
      start(c) {
        for (const chunk of chunks) c.enqueue(chunk)
        c.close()
      },
    }),
    { status },
  )
}
async function linesOf(response: Response): Promise<string[]> {
  vi.stubGlobal('fetch', async () => response)
  const out: string[] = []
  for await (const line of api.lines('/roads/1/trial', {})) if (line) out.push(line)
  return out
}

describe('lines of JSON', () => {
  it('are whole wherever the answer is cut, also inside a character', async () => {
    for (let at = 1; at < spoken.length; at++) {
      expect(await linesOf(answered([spoken.slice(0, at), spoken.slice(at)]))).toEqual(['{"a":"2 m²"}', '{"b":2}'])
    }
  })
  it('that end with a failure keep what came before and say it', async () => {
    const cut = new TextEncoder().encode('{"a":1}\n{"failed":{"code":"no","message":"No such part.","where":{"part":"x"}}}\n')
    vi.stubGlobal('fetch', async () => answered([cut]))
    const lines = api.lines('/roads/1/trial', {})
    expect((await lines.next()).value).toBe('{"a":1}')
    await expect(lines.next()).rejects.toThrow(new AppError(200, 'no', 'No such part.', { part: 'x' }))
  })
  it('fail with the sentence of the server', async () => {
    const refused = new Response(JSON.stringify({ code: 'no', message: 'The road is gone.' }), { status: 404 })
    await expect(linesOf(refused)).rejects.toThrow(new AppError(404, 'no', 'The road is gone.'))
  })
})
