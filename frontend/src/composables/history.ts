import { useQuery } from '@tanstack/vue-query'
import { client, unwrap } from '../api/client'

const LIVE = 2_000

/** What the history tells: whose addresses, who is answered, who is not read; asked again while it is being read. */
export function useHistory(live: () => boolean = () => false) {
  return useQuery({
    queryKey: ['history'],
    queryFn: () => unwrap(client.GET('/api/mailboxes/found')),
    refetchInterval: () => (live() ? LIVE : false),
  })
}
