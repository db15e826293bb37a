// The one door to the server: typed by its own description, every change marked as ours.
import createClient from 'openapi-fetch'
import { ref, type DeepReadonly } from 'vue'
import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Place = Schemas['PlaceOut']
export type Places = Schemas['PlacesOut']
export type Bounds = Schemas['BoundsOut']
export type Message = DeepReadonly<Schemas['MessageOut']>
export type Page = Omit<Schemas['PageOut'], 'messages'> & { messages: Message[] }
export type Opened = Schemas['OpenedOut']
export type Evidence = Schemas['EvidenceOut']
export type Outcome = Schemas['OutcomeOut']
export type Kin = DeepReadonly<Schemas['KinOut']>
export type Contrary = Schemas['ContraryOut']
export type Settings = Schemas['SettingsOut']
export type Vouched = Schemas['VouchedOut']
export type Said = DeepReadonly<Schemas['SaidOut']>
export type Folder = Schemas['FolderOut']
export type Trial = Schemas['TrialOut']
export type Figures = Schemas['FiguresOut']
export type Source = DeepReadonly<Schemas['SourceOut']>
export type Subscription = DeepReadonly<Schemas['SubscriptionOut']>
export type Subscriptions = Omit<Schemas['SubscriptionsOut'], 'subscriptions'> & {
  subscriptions: Subscription[]
}
export type Phrase = DeepReadonly<Schemas['PhraseOut']>
export type AwayNotice = DeepReadonly<Schemas['AwayOut']>
export type AwayGiven = Schemas['AwayIn']
export type CircleGiven = Schemas['CircleIn']
export type AwayTried = DeepReadonly<Schemas['DryRunOut']>
export type Invited = DeepReadonly<Schemas['InvitedOut']>
export type Queue = DeepReadonly<Schemas['QueueOut']>
export type QueueGiven = Schemas['QueueIn']
export type QueueShown = DeepReadonly<Schemas['QueueShownOut']>
export type ShortPart = DeepReadonly<Schemas['ShortPartOut']>
export type Briefing = DeepReadonly<Schemas['BriefingOut']>
export type Routine = DeepReadonly<Schemas['RoutineOut']>
export type Routines = DeepReadonly<Schemas['RoutinesOut']>
export type RoutineAction = Schemas['RoutineActionIn']
export type RoutineDoing = DeepReadonly<Schemas['RoutineDoingOut']>
export type RoutineGiven = Schemas['RoutineIn']
export type RanRoutine = DeepReadonly<Schemas['RanRoutineOut']>
export type TriedRoutine = DeepReadonly<Schemas['TriedRoutineOut']>
export type Rule = DeepReadonly<Schemas['RuleOut']>
export type Rules = DeepReadonly<Schemas['RulesOut']>
export type RuleGiven = Schemas['RuleIn']
export type RuleAction = Schemas['ActionIn']
export type Doing = DeepReadonly<Schemas['DoingOut']>
export type Conflict = DeepReadonly<Schemas['ConflictOut']>
export type RulePreview = DeepReadonly<Schemas['RulePreviewOut']>
export type ServerRules = DeepReadonly<Schemas['ServerRulesOut']>
export type Topic = DeepReadonly<Schemas['TopicOut']>
export type TopicTold = DeepReadonly<Schemas['TopicToldOut']>
export type TopicQuestion = DeepReadonly<Schemas['TopicQuestionOut']>
export type Filed = Schemas['FiledOut']
export type Followed = DeepReadonly<Schemas['FollowedOut']>
export type FollowUp = DeepReadonly<Schemas['FollowUpOut']>
export type OwedLists = DeepReadonly<Schemas['OwedListsOut']>
export type OwedLine = DeepReadonly<Schemas['OwedOut']>
export type FollowUpSettings = Schemas['FollowUpSettingsOut']
export type Tray = DeepReadonly<Schemas['TrayOut']>
export type InTrays = DeepReadonly<Schemas['DeskOut']>
export type Taken = DeepReadonly<Schemas['TakenOut']>
export type Offered = DeepReadonly<Schemas['SecondLookOut']>
export type Tag = DeepReadonly<Schemas['TagOut']>
export type Tags = DeepReadonly<Schemas['TagsOut']>
export type TagChange = Schemas['TagChangeIn']
export type Address = DeepReadonly<Schemas['AddressOut']>
export type Purpose = Schemas['Purpose']
export type Plan = DeepReadonly<Schemas['PlanOut']>
export type PlanGiven = Schemas['PlanIn']
export type OpenedEdition = DeepReadonly<Schemas['OpenedEditionOut']>
export type Reach = Schemas['Reach']
export type Step = Schemas['StepOut']
export type StepEvent = Schemas['EventOut']
export type ImportJob = Schemas['ImportOut']
export type Delivery = Schemas['DeliveryOut']
export type Found = Schemas['FoundOut']
export type Operator = Schemas['OperatorOut']
export type SavedSearch = Schemas['SavedOut']
export type Part = Schemas['PartOut']
export type Invitation = Schemas['InvitationOut']
export type Change = Schemas['ChangeOut']
export type Mailbox = Schemas['MailboxOut']
export type Servers = Schemas['ServersIn']
export type FoundServers = Schemas['ServersFoundOut']
export type Authorisation = Schemas['AuthorisationOut']
export type Certificate = Schemas['CertificateOut']
export type Probe = Schemas['ProbeOut']
export type Leaving = Schemas['LeavingOut']
export type Elsewhere = Schemas['ElsewhereOut']
export type OldMailRow = Schemas['WeightOut']
export type Draft = Schemas['DraftOut']
export type DraftKind = Schemas['BeginIn']['kind']
export type Identity = Schemas['IdentityOut']
export type Participation = Schemas['InvitationIn']['answer']
export type Mark = Schemas['MarkIn']['mark']
export type Order = 'importance' | 'time'
export type Ranking = 'relevance' | Order

export const MARK = { 'x-hieranome': '1' }
export const client = createClient<paths>({ baseUrl: '/', headers: MARK })

/** Grows whenever the server answers that nobody is signed in. */
export const signedOut = ref(0)

/** What the server said was wrong, in its own sentence. */
export class ServerError extends Error {
  /** The status of the answer, 0 where none came; the certificate that was not trusted, where that was wrong. */
  constructor(
    message: string,
    readonly status = 0,
    readonly certificate: Certificate | null = null,
    /** Whether it is done where the same is sent again, confirmed. */
    readonly asks = false,
  ) {
    super(message)
  }
}

interface Result<T> {
  data?: T
  error?: unknown
  response: Response
}

/** The data of an answer, or the server's sentence as an error. */
export async function unwrap<T>(answer: Promise<Result<T>>): Promise<T> {
  let result: Result<T>
  try {
    result = await answer
  } catch {
    throw new ServerError('The server does not answer. Check that Hieranome is running, then try again.')
  }
  if (result.response.status === 401) signedOut.value++
  if (result.response.status === 204) return undefined as T
  if (result.data === undefined || !result.response.ok)
    throw new ServerError(
      sentence(result.error, result.response),
      result.response.status,
      (result.error as { certificate?: Certificate } | undefined)?.certificate,
      (result.error as { asks?: boolean } | undefined)?.asks ?? false,
    )
  return result.data
}

function sentence(error: unknown, response: Response): string {
  const detail = (error as { detail?: unknown } | undefined)?.detail
  if (typeof detail === 'string') return detail
  if (Array.isArray(detail)) return detail.map((one: { msg?: string }) => one.msg ?? '').join('; ')
  return `The server answered ${response.status}. Try again; if it stays, look at what the server printed.`
}
