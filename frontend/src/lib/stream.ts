// One stream of events for a whole browser: the tab that holds the lock listens, and tells the other tabs.
import type { Ref } from 'vue'
import type { Acts, Kind } from './told'

export interface Stream {
  close: () => void
}

const NAME = 'hieranome-events'

/** Acts on the events of a stream until closed; `connected` tells whether this browser hears the server. */
export function openStream(address: string, acts: Acts, connected: Ref<boolean>): Stream {
  const others = new BroadcastChannel(NAME)
  const ended = new AbortController()

  function act(kind: string, data: unknown): void {
    ;(acts[kind as Kind] as ((data: unknown) => void) | undefined)?.(data)
  }

  function lead(): Promise<void> {
    return new Promise((release) => {
      const source = new EventSource(address)
      const told = (yes: boolean) => {
        connected.value = yes
        others.postMessage({ connected: yes })
      }
      source.addEventListener('open', () => told(true))
      source.addEventListener('error', () => told(false))
      for (const kind of Object.keys(acts))
        source.addEventListener(kind, (event) => {
          const data: unknown = JSON.parse((event as MessageEvent<string>).data)
          act(kind, data)
          others.postMessage({ kind, data })
        })
      ended.signal.addEventListener('abort', () => {
        source.close()
        release()
      })
    })
  }

  others.onmessage = ({ data }: MessageEvent<{ kind?: string; data?: unknown; connected?: boolean }>) => {
    if (data.kind !== undefined) act(data.kind, data.data)
    if (data.connected !== undefined) connected.value = data.connected
  }
  const locks = navigator.locks as LockManager | undefined
  const held = locks ? locks.request(NAME, { signal: ended.signal }, lead) : lead()
  void Promise.resolve(held).catch(() => undefined)
  return {
    close: () => {
      ended.abort()
      others.close()
    },
  }
}
