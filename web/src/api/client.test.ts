import { afterEach, describe, expect, it, vi } from 'vitest'
import { api, AppError } from './client'

const bytes = new TextEncoder().encode('{"a":"2 m²"}\n{"b":2}\n')
function answered(chunks: Uint8Array[], status = 200): Response {
  return new Response(new ReadableStream({ start(c) { for (const chunk of chunks) c.enqueue(chunk); c.close() } }), { status })
}
async function linesOf(response: Response): Promise<string[]> {
  vi.stubGlobal('fetch', async () => response)
  const out: string[] = []
  for await (const line of api.lines('/roads/1/trial', {})) if (line) out.push(line)
  return out
}

describe('lines of JSON', () => {
  afterEach(() => vi.unstubAllGlobals())
  it('are whole wherever the answer is cut, also inside a character', async () => {
    for (let at = 1; at < bytes.length; at++) {
      expect(await linesOf(answered([bytes.slice(0, at), bytes.slice(at)]))).toEqual(['{"a":"2 m²"}', '{"b":2}'])
    }
  })
  it('fail with the sentence of the server', async () => {
    const refused = new Response(JSON.stringify({ code: 'no', message: 'The road is gone.' }), { status: 404 })
    await expect(linesOf(refused)).rejects.toThrow(new AppError(404, 'no', 'The road is gone.'))
  })
})
