import { useTimeoutFn, useWebSocket } from '@vueuse/core'
import { onScopeDispose, readonly } from 'vue'
import { heard, queryClient } from '@/api/queries'
import { gone } from '@/store'

const RETRY_MS = 700
// The program gives a sign of life more often than this.
const SILENT_MS = 60_000


/** Since when (ms) the program has not answered; null while it does. */
export const goneSince = readonly(gone)

/** One socket for the whole window: what changed is told, and only that is fetched again. It comes back by itself. */
export function useChanges() {
  let missed = false
  const { ws } = useWebSocket(`${location.origin.replace('http', 'ws')}/api/changes`, {
    autoReconnect: { delay: RETRY_MS },
    onConnected() {
      gone.value = null
      quiet.start()
      // What happened while nobody listened was told to nobody.
      if (missed) void queryClient.invalidateQueries()
      missed = false
    },
    onMessage(_, event: MessageEvent<string>) {
      quiet.start()
      heard(JSON.parse(event.data) as Parameters<typeof heard>[0])
    },
    onDisconnected() {
      quiet.stop()
      if (!missed) void queryClient.invalidateQueries()
      missed = true
      gone.value ??= Date.now()
    },
  })
  // A socket that says nothing is given up, and opened anew.
  const quiet = useTimeoutFn(() => ws.value?.close(), SILENT_MS, { immediate: false })
  onScopeDispose(() => (gone.value = null))
}
