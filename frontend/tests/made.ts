// Made-up messages and pages for tests.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp, effectScope, type EffectScope } from 'vue'
import type { Evidence, Message, Page, Place, Places } from '../src/api/client'

export function message(id: number, fields: Partial<Message> = {}): Message {
  return {
    id,
    thread: id,
    time: 1_760_000_000 + id,
    sender_address: 'ilse@hall.example',
    sender_name: 'Ilse Vann',
    list_id: '',
    subject: `Subject ${id}`,
    snippet: '',
    size: 2_000,
    attachments: 0,
    readable: true,
    seen: false,
    answered: false,
    flagged: false,
    place: 'desk',
    decided_by: 'model',
    score: 0.5,
    low_edge: 0.4,
    high_edge: 0.6,
    certainty: 0.5,
    likely: 'shelf',
    accounts: [],
    leaves_at: 0,
    tags: [],
    follow: [],
    topic: 0,
    between: [],
    ...fields,
  }
}

export function page(messages: Message[], next = ''): Page {
  return { messages, next, shifted: false, revision: 1 } as Page
}

export function place(name: string, fields: Partial<Place> = {}): Place {
  return {
    name,
    title: name[0]!.toUpperCase() + name.slice(1),
    band: 0,
    important: false,
    total: 0,
    unread: 0,
    notice: 0,
    rhythm: '',
    looked_at: 0,
    own: false,
    instead: '',
    takes: true,
    ...fields,
  }
}

export function places(...all: Place[]): Places {
  return { places: all, bounds: { ask: 0.1, desk: 0.17, quite: 0.97, fairly: 0.8 }, revision: 1, due: 0 }
}

export function evidence(fields: Partial<Evidence>): Evidence {
  return { kind: 'prior', group: '', text: '', value: 0, count: 0, lesson: null, ...fields } as Evidence
}

/** Runs composables within an application that has a query client; `end` disposes them. */
export function within<T>(work: () => T): { made: T; queries: QueryClient; end: () => void } {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false, staleTime: Infinity } } })
  const app = createApp({ render: () => null })
  app.use(VueQueryPlugin, { queryClient: queries })
  const scope: EffectScope = effectScope()
  const made = app.runWithContext(() => scope.run(work)) as T
  return {
    made,
    queries,
    end: () => {
      scope.stop()
      queries.clear()
    },
  }
}

export interface Answer {
  status?: number
  body?: unknown
  /** It is given once this is done. */
  after?: Promise<unknown>
}

/** Answers of a server that tests stand in for, by the end of the path asked for; what was asked. */
export function answering(answers: Record<string, Answer>): string[] {
  const asked: string[] = []
  globalThis.answers = async (request) => {
    const path = new URL(request.url).pathname
    asked.push(`${request.method} ${path}`)
    const found = Object.entries(answers).find(([end]) => path.endsWith(end))?.[1]
    if (!found) throw new TypeError(`nothing answers ${path}`)
    await found.after
    const status = found.status ?? 200
    const headers = { 'content-type': 'application/json' }
    return new Response(status === 204 ? null : JSON.stringify(found.body ?? {}), { status, headers })
  }
  return asked
}
