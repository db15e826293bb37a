// The away notice: set, tried out, at servers, and the invitations that fall into its time.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, unwrap, type AwayGiven, type AwayNotice, type AwayTried, type Invited } from '../api/client'

const KEY = ['away']
/** Where servers keep their scripts, unless it was said otherwise. */
const USUAL = { host: '', port: 4190, security: 'starttls' } as const

export function useAway() {
  const queries = useQueryClient()
  const query = useQuery({
    queryKey: [...KEY, 'notice'],
    queryFn: (): Promise<AwayNotice> => unwrap(client.GET('/api/away')),
  })

  async function kept(work: Promise<AwayNotice>): Promise<AwayNotice> {
    const now = await work
    queries.setQueryData([...KEY, 'notice'], now)
    await queries.invalidateQueries({ queryKey: [...KEY, 'invitations'] })
    return now
  }

  const set = (body: AwayGiven) => kept(unwrap(client.PUT('/api/away', { body })))
  const off = () => kept(unwrap(client.POST('/api/away/off')))
  const tryOut = (body: AwayGiven): Promise<AwayTried> => unwrap(client.POST('/api/away/dry-run', { body }))
  const answerAt = (account: number, on: boolean) =>
    kept(unwrap(client.PUT('/api/away/server', { body: { ...USUAL, account, on } })))
  return { notice: query.data, failed: query.error, set, off, tryOut, answerAt }
}

/** The invitations that fall into the time away. */
export function useAwayInvitations() {
  const queries = useQueryClient()
  const { data, error } = useQuery({
    queryKey: [...KEY, 'invitations'],
    queryFn: (): Promise<Invited[]> => unwrap(client.GET('/api/away/invitations')),
  })

  async function decline(number: number): Promise<void> {
    const params = { path: { number } }
    const body = { answer: 'declined' as const }
    await unwrap(client.POST('/api/messages/{number}/invitation', { params, body }))
    await queries.invalidateQueries({ queryKey: [...KEY, 'invitations'] })
    void queries.invalidateQueries({ queryKey: ['drafts'] })
  }

  return { invited: computed(() => data.value ?? []), failed: error, decline }
}

/** What the server of a mailbox would do otherwise; asked for when it is to be known. */
export function useDifferences(account: Readonly<Ref<number>>) {
  return useQuery({
    queryKey: computed(() => [...KEY, 'server', account.value] as const),
    queryFn: () => unwrap(client.GET('/api/away/server', { params: { query: { account: account.value } } })),
    enabled: computed(() => account.value > 0),
    staleTime: 0,
    retry: false,
  })
}
