// Something done on the owner's behalf: whether it is under way, and the server's sentence when it was refused.
import { computed, ref } from 'vue'
import { ServerError, type Certificate } from '../api/client'

/** Tries work, and tells why when it is refused: in `problem`, and to `tell` where one is given, or to `ask` where it is
 * done once the owner says that they mean it; `certificate` is the one
 * that was not trusted, where that was why. */
export function useAttempt(tell?: (why: string) => void, ask?: (why: string) => void) {
  const problem = ref('')
  const certificate = ref<Certificate | null>(null)
  const under = ref(0)

  /** The answer of the work, or undefined when it was refused. */
  async function answer<T>(work: () => Promise<T>): Promise<T | undefined> {
    under.value++
    problem.value = ''
    certificate.value = null
    try {
      return await work()
    } catch (error) {
      problem.value = (error as Error).message
      certificate.value = error instanceof ServerError ? error.certificate : null
      if (ask && error instanceof ServerError && error.asks) ask(problem.value)
      else tell?.(problem.value)
      return undefined
    } finally {
      under.value--
    }
  }

  /** Does the work; tells whether it was done. */
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    const done = await answer(async () => {
      await work()
      return true
    })
    return done ?? false
  }

  return { problem, certificate, busy: computed(() => under.value > 0), answer, attempt }
}
