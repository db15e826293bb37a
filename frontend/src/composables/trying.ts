// Something tried on the owner's behalf: whether it is under way, and the server's sentence when it was refused.
import { ref } from 'vue'

export function useTrying() {
  const problem = ref('')
  const busy = ref(false)

  /** Does the work; tells whether it was done. */
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    busy.value = true
    problem.value = ''
    try {
      await work()
      return true
    } catch (error) {
      problem.value = (error as Error).message
      return false
    } finally {
      busy.value = false
    }
  }

  return { problem, busy, attempt }
}
