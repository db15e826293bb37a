import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import type { Message } from '../../src/api/client'
import { useMarkRead } from '../../src/composables/reading'
import { appearance, APPEARANCE } from '../../src/composables/settings'
import { answering, message, place, places, within } from '../made'

let end = () => undefined as unknown

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  end()
  vi.useRealTimers()
  appearance.value = { ...APPEARANCE }
})

function page(changes: Partial<Message> = {}) {
  const asked = answering({
    '/api/messages/1/opened': { status: 204 },
    '/api/messages/2/opened': { status: 204 },
    '/api/places': { body: places(place('desk')) },
  })
  const [id, shown, open] = [ref(0), ref(true), ref<Message>()]
  const { made, end: over } = within(() => useMarkRead(id, shown, open))
  end = over
  async function show(number: number) {
    id.value = number
    open.value = { ...message(number), ...changes }
    await nextTick()
  }
  const read = async () => {
    await vi.advanceTimersByTimeAsync(0)
    return asked.filter((one) => one.startsWith('POST')).map((one) => one.slice(5))
  }
  return { now: made.now, show, read }
}

describe('what counts as read', () => {
  it('is what one stays at, not what one passes', async () => {
    const { show, read } = page()
    await show(1)
    await vi.advanceTimersByTimeAsync(2_000)
    await show(2)
    await vi.advanceTimersByTimeAsync(2_000)
    expect(await read()).toEqual([])
    await vi.advanceTimersByTimeAsync(2_000)
    expect(await read()).toEqual(['/api/messages/2/opened'])
  })

  it('is what was opened, at once and once', async () => {
    const { now, show, read } = page()
    now(1)
    await show(1)
    await show(1)
    expect(await read()).toEqual(['/api/messages/1/opened'])
    await show(2)
    now(2)
    expect(await read()).toEqual(['/api/messages/1/opened', '/api/messages/2/opened'])
  })

  it('is nothing where it is done by hand', async () => {
    appearance.value = { ...APPEARANCE, markRead: 'by hand' }
    const { now, show, read } = page()
    now(1)
    await show(1)
    await vi.advanceTimersByTimeAsync(9_000)
    expect(await read()).toEqual([])
  })

  it('is all that is shown, where that is wished, and nothing twice', async () => {
    appearance.value = { ...APPEARANCE, markRead: 'at once' }
    const { show, read } = page()
    await show(1)
    expect(await read()).toEqual(['/api/messages/1/opened'])
    const again = page({ seen: true, place: 'shelf' })
    await again.show(2)
    expect(await again.read()).toEqual([])
  })
})
