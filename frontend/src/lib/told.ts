// What the server tells over the stream of events: every kind with what comes along. A test compares it with the server.
import type { ImportJob, Message } from '../api/client'

export interface Progress {
  done: number
  of: number
}

export interface Told {
  /** The first thing every stream says. */
  hello: object
  /** Too much was missed: everything is to be loaded anew. */
  reset: object
  arrived: { message: Message }
  /** Total and unread by place, and the revision of the scores. */
  counts: { counts: Record<string, [number, number]>; revision: number }
  moved: { step: number; messages: number[]; revision: number }
  seen: { message: number; seen: boolean }
  rescored: object
  places: object
  searches: object
  tags: object
  rules: object
  topics: object
  trays: object
  phrases: object
  routines: object
  queues: object
  /** The away notice, or who got it, is another now. */
  away: object
  /** What is followed through of messages changed. */
  following: { step: number; messages: number[] }
  /** What a second look offers is another now. */
  looked: object
  /** How far the run of a rule, of a topic on what is here, or of a routine is; its step once it ended, 0 where nothing
   * had to change. */
  running: Progress & { rule?: number; topic?: number; routine?: number; step: number }
  import: Partial<ImportJob>
  rebuild: Progress
  /** Scores of standing mail on their way to what the model says now. */
  rescoring: Progress
  /** Stored mail read anew, because what is looked at in it is another by now. */
  renewing: Progress
  trial: Progress & { state: string }
  account: { account?: number }
  health: object
  drafts: object
  elsewhere: object
  editions: object
  drain: object
  emptying: object
  /** How the page looks, or its keys, is another now. */
  appearance: object
  /** Something was arranged, as a step that can be undone; step 0 says that one was undone. */
  arranged: { step: number; title: string }
  /** Somebody was signed out: streams of theirs end. */
  entry: object
}

export type Kind = keyof Told
export type Acts = Partial<{ [K in Kind]: (data: Told[K]) => void }>
