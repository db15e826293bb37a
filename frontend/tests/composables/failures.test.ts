import { useQuery } from '@tanstack/vue-query'
import { expect, it, vi } from 'vitest'
import { ServerError } from '../../src/api/client'
import { useFailures } from '../../src/composables/failures'
import { within } from '../made'

it('tells each reason once and asks all of it again', async () => {
  let works = false
  const ask = () => (works ? Promise.resolve(1) : Promise.reject(new ServerError('The server is busy.', 503)))
  const { made, end } = within(() => {
    const failures = useFailures()
    const first = useQuery({ queryKey: ['a'], queryFn: ask })
    useQuery({ queryKey: ['b'], queryFn: ask })
    return { failures, first }
  })
  await vi.waitFor(() => expect(made.failures.errors.value).toEqual(['The server is busy.']))
  works = true
  await made.failures.retry()
  expect(made.first.data.value).toBe(1)
  expect(made.failures.errors.value).toEqual([])
  end()
})

it('leaves what is wrong with the question to where it is asked', async () => {
  const { made, end } = within(() => {
    const failures = useFailures()
    const query = useQuery({
      queryKey: ['line'],
      queryFn: () => Promise.reject(new ServerError('from: says nothing yet.', 422)),
    })
    return { failures, query }
  })
  await vi.waitFor(() => expect(made.query.isError.value).toBe(true))
  expect(made.failures.errors.value).toEqual([])
  end()
})
