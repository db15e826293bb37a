import { afterEach, describe, expect, it, vi } from 'vitest'
import type { Page, Places } from '../../src/api/client'
import { useTeaching, type Chosen } from '../../src/composables/teaching'
import { answering, message, page, place, places, within } from '../made'

const LISTED = { order: 'importance', unreadFirst: false, unreadOnly: false }
const desk = [message(2), message(1)]
const chosen: Chosen = { ids: [2], rows: [desk[0]!], place: 'desk' }
const REFUSED = { status: 409, body: { detail: 'It moved meanwhile. Load the list again.' } }
const OUTCOME = { step: 7, effects: [], kin: [], kin_total: 0, contrary: [], changed: [], followed: 0 }
let end = () => undefined as unknown

afterEach(() => end())

function room(answers: Parameters<typeof answering>[0]) {
  const asked = answering({ ...answers, '/api/places': { body: counted() } })
  const { made, queries, end: over } = within(() => useTeaching())
  end = over
  queries.setQueryData(['places'], counted())
  queries.setQueryData(['messages', 'desk', LISTED], { pages: [page(desk)], pageParams: [''] })
  const listed = () =>
    queries
      .getQueryData<{ pages: Page[] }>(['messages', 'desk', LISTED])
      ?.pages.flatMap((one) => one.messages)
      .map((one) => ({ id: one.id, seen: one.seen, flagged: one.flagged }))
  const total = (name: string) =>
    queries.getQueryData<Places>(['places'])?.places.find((one) => one.name === name)?.total
  return { teaching: made, queries, asked, listed, total }
}

const counted = () => places(place('desk', { total: 2 }), place('shelf'), place('archive', { band: -1 }))
const BEFORE = [
  { id: 2, seen: false, flagged: false },
  { id: 1, seen: false, flagged: false },
]

describe('a verdict', () => {
  it('is shown before the server has answered', async () => {
    let answer: (done?: unknown) => void = () => undefined
    const after = new Promise((done) => (answer = done))
    const { teaching, listed, total } = room({ '/api/verdicts': { body: OUTCOME, after } })
    const given = teaching.put(chosen, 'shelf')
    await vi.waitFor(() => expect(listed()?.map((one) => one.id)).toEqual([1]))
    expect([total('desk'), total('shelf')]).toEqual([1, 1])
    expect(teaching.effect.value).toBeNull()
    answer()
    await given
    expect(teaching.effect.value?.text).toBe('“Subject 2” is on the Shelf.')
    teaching.dismiss()
  })

  it('is put back when it is refused, and the reason is told', async () => {
    const { teaching, listed, total } = room({ '/api/verdicts': REFUSED })
    await teaching.put(chosen, 'shelf')
    expect(listed()).toEqual(BEFORE)
    expect([total('desk'), total('shelf')]).toEqual([2, 0])
    expect(teaching.effect.value).toMatchObject({ text: REFUSED.body.detail, only: true })
    expect(teaching.working.value).toBe(false)
  })

  it('is put back when nobody answers', async () => {
    const { teaching, listed } = room({})
    await teaching.put(chosen, 'shelf')
    expect(listed()).toEqual(BEFORE)
    expect(teaching.effect.value?.text).toMatch(/does not answer/)
  })

  it('is not undone by a list that was asked for before it', async () => {
    const { teaching, queries, listed } = room({ '/api/verdicts': { body: OUTCOME } })
    let answer: (pages: unknown) => void = () => undefined
    const late = queries
      .fetchQuery({
        queryKey: ['messages', 'desk', LISTED],
        queryFn: () => new Promise((done) => (answer = done)),
        staleTime: 0,
      })
      .catch(() => undefined)
    const given = teaching.put(chosen, 'shelf')
    await vi.waitFor(() => expect(listed()?.map((one) => one.id)).toEqual([1]))
    answer({ pages: [page(desk)], pageParams: [''] })
    await Promise.all([late, given])
    expect(listed()?.map((one) => one.id)).toEqual([1])
  })
})

describe('filing', () => {
  it('is put back when it is refused', async () => {
    const { teaching, listed, total } = room({ '/api/filed': REFUSED })
    await teaching.file(chosen, 'archive')
    expect(listed()).toEqual(BEFORE)
    expect([total('desk'), total('archive')]).toEqual([2, 0])
  })

  it('of nothing asks nobody', async () => {
    const { teaching, asked } = room({})
    await teaching.file({ ids: [], rows: [], place: 'desk' }, 'archive')
    expect(asked.filter((one) => !one.startsWith('GET'))).toEqual([])
  })
})

describe('a mark', () => {
  it('is shown at once and put back when it is refused', async () => {
    let answer: (done?: unknown) => void = () => undefined
    const after = new Promise((done) => (answer = done))
    const { teaching, listed } = room({ '/api/marks': { ...REFUSED, after } })
    const given = teaching.mark(chosen, 'flagged')
    await vi.waitFor(() => expect(listed()?.[0]?.flagged).toBe(true))
    answer()
    await given
    expect(listed()).toEqual(BEFORE)
  })
})

describe('kin and undo', () => {
  it('kin that may not follow leave the effect as it was', async () => {
    const kin = [{ message: message(1), target: 'shelf', sureness: 0.9 }]
    const { teaching } = room({
      '/api/verdicts': { body: { ...OUTCOME, kin, kin_total: 1 } },
      '/kin': REFUSED,
    })
    await teaching.put(chosen, 'shelf')
    await teaching.follow(kin)
    expect(teaching.effect.value).toMatchObject({ text: REFUSED.body.detail })
  })

  it('an undo that is refused says why and undoes nothing', async () => {
    const { teaching } = room({ '/api/undo': { status: 409, body: { detail: 'There is nothing to undo.' } } })
    expect(await teaching.undo()).toBeUndefined()
    expect(teaching.effect.value?.text).toBe('There is nothing to undo.')
  })
})
