import { onScopeDispose, readonly, shallowRef } from 'vue'
import { heard, queryClient } from '@/api/queries'

const RETRY_MS = 700
// The program gives a sign of life more often than this.
const SILENT_MS = 60_000

const gone = shallowRef<number | null>(null)

/** Since when (ms) the program has not answered; null while it does. */
export const goneSince = readonly(gone)

/** One socket for the whole window: what changed is told, and only that is fetched again. It comes back by itself. */
export function useChanges() {
  let socket: WebSocket | null = null
  let retry: ReturnType<typeof setTimeout> | undefined
  let quiet: ReturnType<typeof setTimeout> | undefined
  let missed = false

  function listening() {
    clearTimeout(quiet)
    quiet = setTimeout(() => socket?.close(), SILENT_MS)
  }

  function open() {
    socket = new WebSocket(`${location.origin.replace('http', 'ws')}/api/changes`)
    socket.onopen = () => {
      gone.value = null
      listening()
      // What happened while nobody listened was told to nobody.
      if (missed) void queryClient.invalidateQueries()
      missed = false
    }
    socket.onmessage = (event: MessageEvent<string>) => {
      listening()
      heard(JSON.parse(event.data) as Parameters<typeof heard>[0])
    }
    socket.onclose = () => {
      if (!missed) void queryClient.invalidateQueries()
      missed = true
      gone.value ??= Date.now()
      retry = setTimeout(open, RETRY_MS)
    }
  }

  open()
  onScopeDispose(() => {
    gone.value = null
    clearTimeout(retry)
    clearTimeout(quiet)
    if (socket) socket.onclose = null
    socket?.close()
  })
}
