// What rules are, in words, and a rule as it is written in the form.
import type { Conflict, Doing, Rule, RuleAction, RuleGiven, RulePreview } from '../api/client'

/** A rule to begin with. */
export function emptyRule(name = '', line = ''): RuleGiven {
  return {
    name,
    enabled: true,
    when: 'arrives',
    days: 21,
    counted: 'came',
    last_of_day: false,
    line,
    excepted: '',
    actions: [{ verb: 'bucket', target: 'shelf' }],
    confirmed: false,
  }
}

/** A kept rule as the form takes it. */
export function givenOf(rule: Rule): RuleGiven {
  const { name, enabled, when, days, counted, last_of_day, line, excepted } = rule
  const actions = rule.actions.map((one) => ({ ...one }))
  return {
    name,
    enabled,
    when,
    days: days || 21,
    counted,
    last_of_day,
    line,
    excepted,
    actions,
    confirmed: false,
  }
}

/** The rule as it is sent: without days where they say nothing. */
export function sent(rule: RuleGiven): RuleGiven {
  return {
    ...rule,
    days: rule.when === 'ages' ? rule.days : 0,
    name: rule.name.trim() || rule.line.slice(0, 60),
  }
}

/** Whether a rule is as it was kept. */
export function unchanged(one: RuleGiven, other: RuleGiven): boolean {
  return JSON.stringify(sent(one)) === JSON.stringify(sent(other))
}

/** What a rule does, in a few words; `names` are titles of places and names of tags by what actions call them. */
export function doingWords(
  actions: readonly RuleAction[],
  doings: readonly Doing[],
  names: Record<string, string>,
): string {
  const words = actions.map((one) => {
    const title = doings.find((doing) => doing.verb === one.verb)?.title ?? one.verb
    return one.target ? `${title} ${names[`${one.verb}:${one.target}`] ?? one.target}` : title
  })
  return words.map((one, at) => (at ? one.charAt(0).toLowerCase() + one.slice(1) : one)).join(', ')
}

/** When a rule does it. */
export function whenWords(rule: Pick<Rule, 'when' | 'days' | 'counted' | 'last_of_day'>): string {
  if (rule.when === 'arrives') return 'as it arrives'
  const since = rule.counted === 'thread' ? ' after the newest of its thread' : ' after it came'
  const days = rule.days === 1 ? 'a day' : `${rule.days} days`
  return `${days}${since}${rule.last_of_day ? ', but the last of each day' : ''}`
}

const many = (count: number) => (count === 1 ? '1 message' : `${count.toLocaleString()} messages`)

/** What a preview says of the mail a rule takes, sentence by sentence. */
export function previewWords(told: RulePreview, place: string): string[] {
  const found = told.exact ? many(told.total) : `At least ${many(told.total)}`
  const said = [`${found} in the last ninety days.`]
  if (!told.exact || !told.total) return said
  if (place && told.standing) {
    const learned = told.by_model > 0.9 * told.total ? ': the model has learned this' : ''
    said.push(
      `${told.standing} of ${told.total} stand there already, ${told.by_model} by the model${learned}.`,
    )
  }
  if (told.against)
    said.push(`${told.against} you put elsewhere yourself: ${told.against === 1 ? 'it stays' : 'they stay'}.`)
  return said
}

const AGAINST: Record<string, string> = {
  vouched: 'you vouch for the sender',
  address: 'you decided on the sender for always',
  list: 'you decided on the list for always',
  domain: 'you decided on the domain for always',
  thread: 'you decided on the thread',
  unsent: 'a copy of the message could not be made',
}

/** What a rule came up against. */
export function conflictWords(one: Conflict, named: (id: number) => string): string {
  const often = one.count === 1 ? 'Once' : `${one.count} times`
  if (one.against === 'verdict') return `${often} you put elsewhere what it had put somewhere.`
  if (one.other) return `${often} “${named(one.other)}” came first and put the mail elsewhere.`
  return `${often} it did not have its way: ${AGAINST[one.against] ?? one.against}.`
}
