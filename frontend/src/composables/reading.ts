// When the open message counts as read: on opening it, after a while, or by hand alone.
import { onScopeDispose, watch, type Ref } from 'vue'
import { client, unwrap, type Message } from '../api/client'
import { useAttempt } from './attempt'
import { appearance } from './settings'
import { useTeaching } from './teaching'

/** How long a message is shown that one only came to on the way, before it counts as read. */
const AWHILE = 3_000

/** Marks what is shown as read once it counts as that; `now` says that the owner opened it, and did not pass by. */
export function useMarkRead(id: Ref<number>, shown: Ref<boolean>, message: Ref<Message | undefined>) {
  const { show } = useTeaching()
  const { attempt } = useAttempt(show)
  // Once for each time a message is opened: marking it unread while it is open leaves it so.
  let marked = 0
  let waiting = 0
  let opened = 0
  let timer: ReturnType<typeof setTimeout> | undefined

  function mark(number: number): void {
    stop()
    marked = number
    opened = 0
    const params = { path: { number } }
    void attempt(() => unwrap(client.POST('/api/messages/{number}/opened', { params })))
  }

  function stop(): void {
    clearTimeout(timer)
    waiting = 0
  }

  watch(
    [id, shown, message, () => appearance.value.markRead],
    ([number, here, one, when]) => {
      if (!here) marked = 0
      if (waiting && waiting !== number) stop()
      if (!here || !one || marked === number || waiting === number) return
      // What was put on the Desk by hand stands there until it is read after that: the server knows which that is.
      if (one.seen && one.place !== 'desk') marked = number
      else if (when === 'at once' || opened === number) mark(number)
      else if (when === 'after a while') {
        waiting = number
        timer = setTimeout(() => mark(number), AWHILE)
      }
    },
    { immediate: true },
  )
  onScopeDispose(stop)

  /** The owner opened a message: it is read now, unless that is done by hand. */
  function now(number: number): void {
    opened = appearance.value.markRead === 'by hand' ? 0 : number
    if (opened && waiting === number) mark(number)
  }
  return { now }
}
