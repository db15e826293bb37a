// The owner's addresses: what each brings, what it is for, and new ones for one party alone.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, unwrap, type Address, type Purpose } from '../api/client'

const KEY = ['addresses']

export function useAddresses() {
  const queries = useQueryClient()
  const query = useQuery({
    queryKey: KEY,
    queryFn: (): Promise<Address[]> => unwrap(client.GET('/api/addresses')),
  })

  function put(one: Address): void {
    queries.setQueryData<Address[]>(KEY, (all) =>
      all?.map((was) => (was.address === one.address ? one : was)),
    )
  }

  /** Says what an address is for and whom it was given to. Throws when it is refused: it stands as it stood then. */
  async function describe(one: Address, purpose: Purpose, givenTo: string): Promise<void> {
    put({ ...one, purpose, given_to: givenTo })
    try {
      const body = { address: one.address, purpose, given_to: givenTo }
      put(await unwrap(client.PUT('/api/addresses', { body })))
    } catch (error) {
      put(one)
      throw error
    }
  }

  /** Makes an address for one party alone. Throws when it is refused. */
  async function make(base: string, givenTo: string): Promise<Address> {
    const made = await unwrap(client.POST('/api/addresses', { body: { base, given_to: givenTo } }))
    queries.setQueryData<Address[]>(KEY, (all) => [...(all ?? []), made])
    return made
  }

  /** Forgets what was said of an address. Throws when it is refused. */
  async function forget(one: Address): Promise<void> {
    await unwrap(client.POST('/api/addresses/forget', { body: { address: one.address } }))
    await queries.invalidateQueries({ queryKey: KEY })
  }

  return {
    all: computed(() => query.data.value ?? []),
    loading: query.isPending,
    failed: query.error,
    describe,
    make,
    forget,
  }
}
