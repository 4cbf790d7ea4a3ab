<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { useWaitingQuery } from '@/api/queries'
import type { Schemas } from '@/api/client'
import { timeLeft } from '@/composables/format'
import { useNow } from '@/composables/useNow'
import { sheetOpen } from '@/composables/useShortcuts'
import TimeRing from '@/figures/TimeRing.vue'
import { DOES, DONE, target } from './waits'

const { data, isError } = useWaitingQuery()
const now = useNow()
const ms = (iso: string) => new Date(iso).getTime()
type Wait = Schemas['Waiting']
/** What waits of one pack is one item: its name stands once, however many of its groups are on chargers. */
const packs = computed(() => {
  const by = new Map<number, Wait[]>()
  for (const w of data.value?.waiting ?? []) by.set(w.job_id, [...(by.get(w.job_id) ?? []), w])
  return [...by.values()]
})
const shown = computed(() => packs.value.slice(0, 4))
const more = computed(() => packs.value.length - shown.value.length)
/** The wait of a pack that wants the hand first. */
const first = (waits: Wait[]) => waits.reduce((a, b) => (ms(b.look_again ?? b.done) < ms(a.look_again ?? a.done) ? b : a))

/** Which groups of a pack are on chargers; nothing for what is of the whole pack. */
function of(waits: Wait[]): string {
  const groups = waits.filter((w) => w.kind === 'charge').map((w) => w.group)
  if (groups.length) return groups.length === 1 ? `group ${groups[0]}` : `groups ${groups.join(', ')}`
  return waits.length > 1 ? waits.map((w) => DOES[w.kind]).join(', ') : ''
}
const share = (w: Wait) => (now.value - ms(w.since)) / Math.max(ms(w.done) - ms(w.since), 1)
const left = (w: Wait) => ms(w.done) - now.value
function look(w: Wait): string {
  if (left(w) <= 0) return w.kind === 'charge' ? 'look now' : DONE[w.kind]
  if (!w.look_again) return ''
  const wait = ms(w.look_again) - now.value
  return wait <= 0 ? 'look now' : `look in ${Math.max(1, Math.round(wait / 60000))} min`
}
</script>

<template>
  <footer class="rail" aria-label="Waiting">
    <span v-if="isError" class="item look" role="alert">The waiting list cannot be shown: Saldatura does not answer.</span>
    <span v-if="data?.clock" class="item look" :title="data.clock">the clock was moved</span>
    <span v-for="line in data?.unread ?? []" :key="line" class="item look">{{ line }}</span>
    <RouterLink v-for="d in data?.driving ?? []" :key="`${d.job_id}-${d.what}`" :to="`/jobs/${d.job_id}/instruments`" class="item drives">
      <span class="who"><strong>{{ d.pack_name }}</strong> {{ d.what }} on, {{ d.amps }} A</span>
      <span class="look">{{ d.stops_in_s === null ? 'switch it off' : 'stops by itself' }}</span>
    </RouterLink>
    <span v-if="data && !data.driving?.length && !shown.length && !isError && !data.unread?.length" class="item muted">Nothing is waiting.</span>
    <RouterLink v-for="waits in shown" :key="waits[0]!.job_id" :to="target(first(waits))" class="item" :title="waits[0]!.pack_name">
      <TimeRing :done="share(first(waits))" />
      <span class="two">
        <span class="who of"><strong>{{ waits[0]!.pack_name }}</strong> <span v-if="waits.length === 1 && waits[0]!.kind !== 'charge'">{{ DOES[waits[0]!.kind] }}</span></span>
        <span class="when"><span v-if="look(first(waits))" class="look">{{ look(first(waits)) }}</span><span v-if="of(waits)">{{ of(waits) }}</span><span class="mono">{{ left(first(waits)) > 0 ? timeLeft(left(first(waits))) : '0:00' }}</span><span v-if="waits[0]!.simulated && (waits[0]!.simulated.paused || waits[0]!.simulated.speed !== 1 || waits.length === 1)" class="muted">{{ waits[0]!.simulated.paused ? 'simulated, paused' : `simulated ×${waits[0]!.simulated.speed}` }}</span></span>
      </span>
    </RouterLink>
    <span v-if="more > 0" class="item muted">and {{ more }} more</span>
    <button type="button" class="item keys" @click="sheetOpen = true"><kbd>?</kbd> shortcuts</button>
  </footer>
</template>

<style scoped>
.rail {
  background: var(--paper);
  border-top: 1px solid var(--ink);
  display: flex;
  font-size: 15px;
  overflow: hidden;
}

.item {
  align-items: center;
  border: 0;
  border-right: 1px solid var(--rule);
  color: var(--ink);
  display: flex;
  flex: 0 1 auto;
  gap: 9px;
  min-width: 0;
  padding: 0 16px;
  text-decoration: none;
  white-space: nowrap;
}

.two {
  display: grid;
  font-size: 14px;
  line-height: 1.25;
  min-width: 0;
}

.of {
  display: flex;
  gap: 6px;
}

.of strong {
  overflow: hidden;
  text-overflow: ellipsis;
}

.when {
  display: flex;
  gap: 8px;
  overflow: hidden;
}

.who {
  overflow: hidden;
  text-overflow: ellipsis;
}

.drives {
  background: repeating-linear-gradient(-45deg, var(--copper-tint) 0 8px, transparent 8px 16px);
}

.look {
  color: var(--copper);
  font-weight: 600;
}

.muted {
  color: var(--muted);
}

.keys {
  background: none;
  border-left: 1px solid var(--rule);
  border-right: 0;
  color: var(--muted);
  cursor: pointer;
  flex: none;
  font: inherit;
  margin-left: auto;
}
</style>
