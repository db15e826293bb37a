// What a topic is told as, in words.
import type { TopicQuestion, TopicTold } from '../api/client'

/** Words a reason names. */
const MOST_NAMED = 4

type Reason = TopicQuestion['reasons'][number]

const SAYS: Record<string, string> = {
  said: 'says',
  text: 'words',
  subject: 'subject',
  subject_pairs: 'subject',
  sender_subject: 'subject from them',
  address: 'from',
  domain: 'from',
  list: 'list',
}

/** Why a message may belong, the strongest first, with what each reason adds to its log-odds. */
export function reasonWords(reason: Reason): string {
  const texts = reason.texts.map((one) => one.split(' ').at(-1) ?? one).slice(0, MOST_NAMED)
  const named = SAYS[reason.group] && texts.length
  const what = named ? `${SAYS[reason.group]} ${[...new Set(texts)].join(', ')}` : plain(reason.heading)
  return `${what} +${reason.amount.toFixed(1)}`
}

function plain(heading: string): string {
  return heading.charAt(0).toLowerCase() + heading.slice(1)
}

/** How often a topic was right of the messages drawn by lot. */
export function rightWords(told: Pick<TopicTold, 'right' | 'checked' | 'low' | 'high'>): string {
  if (!told.checked) return 'not measured yet; it is on what is drawn by lot'
  const percent = (share: number) => Math.round(100 * share)
  return `${told.right} of ${told.checked} drawn by lot were right: between ${percent(told.low)} and ${percent(told.high)} %`
}
