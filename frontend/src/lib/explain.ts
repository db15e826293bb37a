// What things are, in two sentences: shown where one asks.
import type { Bounds, Message, Place } from '../api/client'
import { shown } from './gauge'
import { senderName, subjectOf } from './words'

const PLACES: Record<string, string> = {
  desk: 'Mail that most likely needs you now. It comes here when missing it would cost more than reading it.',
  undecided:
    'Mail Hieranome is not sure of. You are asked where a wrong guess would cost more than your answer, for a few messages of each two hundred.',
  shelf: 'Mail that is worth reading and can wait. Nothing is lost when you look here later.',
  digest: 'Mail to be read together, once a day or once a week. It is put together in editions.',
  drain:
    'Mail you most likely never want to see. It stays for some days, and then goes to the Trash unless you move it.',
  archive: 'Mail that is dealt with and kept. Putting it here teaches nothing.',
  trash: 'Mail that was thrown away. It can be put back until the Trash is emptied.',
  junk: 'Mail your mail server took for unwanted. What may matter among it is shown at the top.',
  sent: 'Mail you wrote. Whom you write to and answer tells Hieranome who matters.',
  drafts: 'What another program of yours is writing. Your own drafts are in Outgoing.',
  parked: 'Mail that comes back by itself: at the time you said, or when somebody answers.',
}
const OWN_BUCKET = 'A bucket of your own. What you put here teaches what else belongs here.'
const OWN_FOLDER = 'A folder of your own. Filing mail here teaches nothing.'

/** What a place is for, with a message that stands there. */
export function placeWords(place: Pick<Place, 'name' | 'band'>, example?: Message): string {
  const what = PLACES[place.name] ?? (place.band >= 0 ? OWN_BUCKET : OWN_FOLDER)
  return example ? `${what} One of yours: “${subjectOf(example.subject)}” from ${senderName(example)}.` : what
}

/** What a score says, of one message. */
export function scoreWords(message: Pick<Message, 'score' | 'low_edge' | 'high_edge'>, bounds: Bounds): string {
  const [low, high] = [shown(message.low_edge), shown(message.high_edge)]
  return (
    `Of a hundred messages like this one, about ${shown(message.score)} need you now; between ${low} and ${high} is as well as is known, ` +
    `and that is the pale part of the line. From ${shown(bounds.desk)} on, mail goes to the Desk, because missing it costs more than reading it.`
  )
}
