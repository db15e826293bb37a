// Working through a list: the open message, the selection, and every verb on either.
import { skipToken, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch, type Ref } from 'vue'
import { client, unwrap, type Message, type Opened, type Reach } from '../api/client'
import { between } from '../lib/rows'
import { placesMail } from '../lib/routines'
import { isWeighed } from '../lib/words'
import { asking, useVerbs } from './actions'
import { useAttempt } from './attempt'
import { timedFor, useFollowing } from './following'
import { usePlaces } from './places'
import { useQueueWork } from './queues'
import { useMarkRead } from './reading'
import { useRoutineRuns, useRoutines } from './routines'
import { useRuleMaking } from './rules'
import { menuAt } from './rowMenu'
import { appearance } from './settings'
import { carried, draggedTag, useTags } from './tags'
import { useTeaching, type Chosen } from './teaching'

const REACHES: Reach[] = ['learn', 'message', 'thread', 'address', 'list', 'domain']

export interface Worked {
  /** The messages in the order they are gone through. */
  walk: Readonly<Ref<Message[]>>
  /** The open message, or 0. */
  openId: Readonly<Ref<number>>
  /** The place that is listed, or an empty string. */
  place: Readonly<Ref<string>>
  /** Opens a message, or none. */
  show: (message?: number) => void
  /** The ids of all that is listed, of one sender where one is named. */
  all: (sender: string) => Promise<{ messages: number[]; total: number }>
}

export function useWork({ walk, openId, place, show, all }: Worked) {
  const { takers, folders, taker, offWords } = usePlaces()
  const teaching = useTeaching()
  const tags = useTags()
  const making = useRuleMaking()
  const following = useFollowing()
  const { all: routines, doings: routineDoings } = useRoutines()
  const runs = useRoutineRuns()
  const { stepOn } = useQueueWork()
  const { reach, effect, say, show: tell } = teaching
  const { answer } = useAttempt(tell)
  const picked = ref<ReadonlySet<number>>(new Set())
  const dragged = ref<Chosen | null>(null)
  const whole = ref(false)
  /** The row a menu is about, which is neither open nor selected. */
  const pointed = ref<Message | null>(null)

  /** What the reading side has opened; it does the asking. */
  const { data: opened } = useQuery<Opened>({
    queryKey: computed(() => ['opened', openId.value]),
    queryFn: skipToken,
  })

  const open = computed<Message | undefined>(
    () => walk.value.find((one) => one.id === openId.value) ?? opened.value?.message,
  )
  const alone = (one: Message): Chosen => ({ ids: [one.id], rows: [one], place: place.value })
  /** All selected where it is among them. */
  const withPicked = (one: Message): Chosen => (picked.value.has(one.id) ? chosen.value : alone(one))
  /** What is open or selected. */
  const held = computed<Chosen>(() => {
    const rows = picked.value.size
      ? walk.value.filter((one) => picked.value.has(one.id))
      : open.value
        ? [open.value]
        : []
    return {
      ids: picked.value.size ? [...picked.value] : rows.map((one) => one.id),
      rows,
      place: place.value,
    }
  })
  /** What verbs are about. */
  const chosen = computed<Chosen>(() => (pointed.value ? alone(pointed.value) : held.value))
  const taught = computed<Chosen>(() => {
    const one = pointed.value ?? (picked.value.size ? undefined : open.value)
    return !one || isWeighed(one) ? chosen.value : { ...chosen.value, ids: [], rows: [] }
  })
  const reaches = computed<Reach[]>(() => {
    if (pointed.value) return REACHES.filter((one) => one !== 'list' || pointed.value?.list_id)
    const known = opened.value?.reaches
    return picked.value.size || !known ? REACHES : REACHES.filter((one) => known.includes(one))
  })
  const reads = computed(() => openId.value !== 0 && (appearance.value.reading !== 'off' || whole.value))

  watch(place, clear)
  watch(menuAt, (at) => {
    const one = at?.message ?? null
    if (at) pointed.value = one && one.id !== openId.value && !picked.value.has(one.id) ? one : null
    else if (!asking.value) pointed.value = null
  })
  // What the command line asks for is done with it before it is forgotten.
  watch(asking, (now) => {
    if (!now) pointed.value = null
  })
  watch(chosen, ({ rows }) => (carried.value = [...new Set(rows.flatMap((one) => one.tags))]), {
    immediate: true,
  })
  watch(
    () => (picked.value.size ? 0 : openId.value),
    (id) => (timedFor.value = id),
    { immediate: true },
  )
  const { now: readNow } = useMarkRead(openId, reads, open)

  function clear(): void {
    picked.value = new Set()
  }

  function at(by: number): Message | undefined {
    const here = walk.value.findIndex((one) => one.id === openId.value)
    return walk.value[here < 0 ? 0 : Math.min(walk.value.length - 1, Math.max(0, here + by))]
  }

  function step(by: number): void {
    const next = at(by)
    if (next) show(next.id)
  }

  function toUnread(): void {
    const here = walk.value.findIndex((one) => one.id === openId.value)
    const next = walk.value.slice(here + 1).find((one) => !one.seen) ?? walk.value.find((one) => !one.seen)
    if (next) show(next.id)
    else tell('Nothing unread here.')
  }

  function toggle(id: number): void {
    const next = new Set(picked.value)
    if (!next.delete(id)) next.add(id)
    picked.value = next
  }

  function extend(by: number): void {
    const ids = [openId.value, at(by)?.id ?? 0].filter(Boolean)
    picked.value = new Set([...picked.value, ...ids])
    step(by)
  }

  function extendTo(id: number): void {
    picked.value = new Set([...picked.value, ...between(walk.value, openId.value || id, id)])
  }

  async function pickAll(sender = ''): Promise<void> {
    const found = await answer(() => all(sender))
    if (!found) return
    picked.value = new Set(found.messages)
    const rest = !sender && found.total > found.messages.length
    say(`${found.messages.length}${rest ? ` of ${found.total}` : ''} selected.`)
  }

  /** Moves on as the owner likes after messages left the list; what is then open, 0 if nothing. */
  function goOn(gone: readonly number[]): number {
    clear()
    if (!gone.includes(openId.value)) return openId.value
    readNow(openId.value) // what one decides on has been looked at
    const ids = new Set(gone)
    const first = walk.value.findIndex((one) => ids.has(one.id))
    const left = walk.value.filter((one) => !ids.has(one.id))
    const next = appearance.value.after === 'list' ? undefined : left[afterwards(first, left.length)]
    if (!next) whole.value = false
    show(next?.id)
    return next?.id ?? 0
  }

  function afterwards(first: number, left: number): number {
    const wanted = appearance.value.after === 'previous' ? first - 1 : first
    return Math.min(Math.max(wanted, 0), left - 1)
  }

  /** Goes on to the next while messages are put elsewhere; back to them where nothing was done, or it asks first. */
  async function leave(what: Chosen, work: (what: Chosen) => Promise<unknown>): Promise<void> {
    if (!what.ids.length) return
    const [was, selected] = [openId.value, new Set(picked.value)]
    const next = goOn(what.ids)
    const done = await work(what)
    // Going on is a navigation, which may not have ended: until then what was open still is.
    const elsewhere = ![was, next].includes(openId.value) || picked.value.size > 0
    if (done !== false || elsewhere) return
    if (was) show(was)
    picked.value = selected
  }

  async function put(
    target: string,
    what: Chosen = taught.value,
    how: Reach = reach.value,
    confirmed = false,
  ): Promise<void> {
    const again = () => put(target, what, how, true)
    await leave(what, (those) => teaching.put(those, target, how, confirmed, again))
  }
  const file = (target: string, what: Chosen = chosen.value) =>
    leave(what, (those) => teaching.file(those, target))

  function drop(target: string): void {
    const what = dragged.value
    dragged.value = null
    if (!what) return
    if (takers.value.some((one) => one.name === target)) put(target, what)
    else file(target, what)
  }

  /** Puts the dragged tag on a message, or on all selected where it is among them. */
  function dropTag(message: Message): void {
    if (draggedTag.value) void tags.put(withPicked(message), draggedTag.value)
    draggedTag.value = ''
  }

  /** Puts a tag on what is dragged onto it. */
  function tagDropped(name: string): void {
    const what = dragged.value
    dragged.value = null
    if (what) void tags.put(what, name)
  }

  function tagAway(name: string): void {
    const what = chosen.value
    goOn(what.ids)
    void tags.put(what, name, true)
  }

  function putNumbered(number: number): void {
    const bucket = taker(number)
    if (bucket) put(bucket.name)
    else if (offWords(number)) teaching.show(offWords(number))
  }

  function nextReach(): void {
    const here = reaches.value.indexOf(reach.value)
    reach.value = reaches.value[(here + 1) % reaches.value.length] ?? 'learn'
  }

  function close(): void {
    if (picked.value.size) clear()
    else if (whole.value) whole.value = false
    else if (openId.value) show()
  }

  function read(): void {
    if (openId.value) readNow(openId.value)
    if (!openId.value) step(0)
    else if (appearance.value.reading === 'off' && !whole.value) whole.value = true
    else
      document
        .querySelector<HTMLElement>('.reading .is-current .reading-text, .reading .is-current iframe')
        ?.focus()
  }

  /** Files in a folder by its name, or in a new one called so. */
  async function fileIn(target = ''): Promise<void> {
    const what = chosen.value
    const known = ['archive', 'trash', ...folders.value.map((one) => one.name)]
    if (!target) return
    const made = known.includes(target)
      ? undefined
      : await answer(() => unwrap(client.POST('/api/folders', { body: { title: target } })))
    if (made || known.includes(target)) await file(made?.name ?? target, what)
  }

  async function routine(number: string, what: Chosen = chosen.value, leaving = false): Promise<void> {
    const one = routines.value.find(({ id }) => String(id) === number)
    const ran = one && (await runs.run(one, what, leaving))
    if (!one || !ran) return
    const placing = routineDoings.value.filter(({ places }) => places).map(({ verb }) => verb)
    if (placesMail(one, placing)) goOn(ran.messages)
    else if (one.actions.some(({ verb }) => verb === 'next')) step(1)
    await runs.look(ran)
  }

  /** Does the routine that was halted to those it can be done to. */
  function routineOthers(): void {
    const one = runs.halted.value
    if (one) void routine(String(one.routine.id), one.what, true)
  }

  const every = (test: (one: Message) => boolean) =>
    chosen.value.rows.length > 0 && chosen.value.rows.every(test)

  useVerbs({
    next: () => step(1),
    previous: () => step(-1),
    'next-unread': toUnread,
    open: read,
    whole: () => (whole.value = !whole.value && openId.value !== 0),
    close,
    select: () => openId.value && toggle(openId.value),
    'extend-down': () => extend(1),
    'extend-up': () => extend(-1),
    'select-all': () => pickAll(),
    'select-sender': () => {
      const sender = (pointed.value ?? open.value)?.sender_address
      if (sender) void pickAll(sender)
    },
    reach: nextReach,
    follow: () => effect.value?.outcome && teaching.follow(effect.value.outcome.kin),
    'weigh-up': () => teaching.weigh(taught.value, true),
    'weigh-down': () => teaching.weigh(taught.value, false),
    archive: () => file('archive'),
    trash: () => file('trash'),
    file: fileIn,
    'make-rule': () => making.about(chosen.value.ids),
    tag: (name = '') => tags.put(chosen.value, name),
    'tag-away': (name = '') => tagAway(name),
    untag: (name = '') => tags.takeOff(chosen.value, name),
    back: () => teaching.back(chosen.value),
    due: (said = '') => following.setDue(chosen.value, said),
    park: (said = '') => leave(chosen.value, (those) => following.park(those, said)),
    'park-answer': () => leave(chosen.value, (those) => following.park(those, '', true)),
    done: () => following.done(chosen.value),
    await: (said = '') => following.awaitAnswer(chosen.value, said),
    routine: (number = '') => routine(number),
    'state-next': () => stepOn(chosen.value, false),
    'state-back': () => stepOn(chosen.value, true),
    'ask-again': () => openId.value && following.askAgain(openId.value),
    flag: () => teaching.mark(chosen.value, every((one) => one.flagged) ? 'unflagged' : 'flagged'),
    seen: () => teaching.mark(chosen.value, every((one) => one.seen) ? 'unread' : 'read'),
    put: (target = '') => put(target),
    always: (target = '') => put(target, taught.value, 'address'),
    refuse: () =>
      put(
        'drain',
        taught.value,
        reaches.value.includes('list') && (pointed.value || !picked.value.size) ? 'list' : 'address',
      ),
    drop: (target = '') => drop(target),
    'drop-tag': (name = '') => tagDropped(name),
    ...Object.fromEntries([0, 1, 2, 3, 4].map((number) => [`put-${number}`, () => putNumbered(number)])),
  })

  function drag(message: Message): void {
    dragged.value = withPicked(message)
  }

  return {
    picked,
    pointed,
    held,
    chosen,
    taught,
    reaches,
    whole,
    reads,
    readNow,
    clear,
    toggle,
    extendTo,
    put,
    drag,
    dropTag,
    routineOthers,
  }
}
