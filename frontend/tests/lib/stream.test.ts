import { afterEach, expect, it } from 'vitest'
import { ref } from 'vue'
import { openStream } from '../../src/lib/stream'

class Source extends EventTarget {
  static made: Source[] = []
  closed = false
  constructor(readonly address: string) {
    super()
    Source.made.push(this)
  }
  close(): void {
    this.closed = true
  }
  tell(kind: string, data?: unknown): void {
    this.dispatchEvent(
      data === undefined ? new Event(kind) : new MessageEvent(kind, { data: JSON.stringify(data) }),
    )
  }
}

afterEach(() => (Source.made = []))

function opened(acts: Parameters<typeof openStream>[1]) {
  Object.assign(globalThis, { EventSource: Source })
  Object.defineProperty(navigator, 'locks', { value: undefined, configurable: true })
  const connected = ref(false)
  const stream = openStream('/api/events', acts, connected)
  return { connected, stream, source: Source.made[0]! }
}

it('acts on what is told, and knows whether it is connected', () => {
  const seen: unknown[] = []
  const { connected, stream, source } = opened({ seen: (data) => seen.push(data) })
  source.tell('open')
  expect(connected.value).toBe(true)
  source.tell('seen', { message: 1, seen: true })
  expect(seen).toEqual([{ message: 1, seen: true }])
  source.tell('error')
  expect(connected.value).toBe(false)
  stream.close()
  expect(source.closed).toBe(true)
})

it('passes by what nobody acts on', () => {
  const { stream, source } = opened({})
  source.tell('arrived', { message: {} })
  stream.close()
  expect(source.address).toBe('/api/events')
})
