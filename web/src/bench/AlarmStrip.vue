<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { queryClient, useWaitingQuery } from '@/api/queries'
import { client, settled } from '@/api/client'
import { clock } from '@/composables/format'
import { type Alarm, useAlarms } from '@/composables/useAlarms'
import { useAct } from '@/composables/useAct'
import { useShortcuts } from '@/composables/useShortcuts'
import { stagePath } from '@/router'

/**
 * What rings now, one at a time and the dearest first: one line over the rail. It stays, in every window, until somebody says that it is
 * seen. What would not go off stays until it confirms, or until somebody who looked says by name that it is off.
 */
const { due: all, see, snooze } = useAlarms()
const { data: told } = useWaitingQuery()
const { act, busy, refusal } = useAct()
const notOff = computed(() => told.value?.not_off ?? [])
const due = computed(() => all.value.filter((a) => !(a.what === 'ring' && a.id.endsWith(' off_unconfirmed'))))
const looked = ref<number | null>(null)
const by = ref('')
const isOff = (number: number) =>
  act(async () => {
    await settled(client.POST('/api/not-off/{number}/seen', { params: { path: { number } }, body: { by: by.value } }))
    looked.value = null
    await queryClient.invalidateQueries({ queryKey: ['waiting'] })
  })
const STAGE = { charge: 'level', rest: 'prove', cure: 'join', cool: 'join', capacity: 'measures', self_discharge: 'prove' } as const
const target = (a: Alarm) => stagePath(a.job, STAGE[a.kind])
const asked = ref('Notification' in window ? Notification.permission : 'denied')
const ask = async () => (asked.value = await Notification.requestPermission())
// One alone, so that the hand is not asked to choose; the others open over the page at a press, and take no room.
const every = ref(false)
const first = computed(() => (notOff.value.length ? null : (due.value[0] ?? null)))
const off = computed(() => notOff.value[0] ?? null)
const rest = computed(() => [...notOff.value.slice(1).map((n) => ({ key: `off ${n.id}`, to: stagePath(n.job_id, 'level'), words: `STILL ON? ${n.says}`, alarm: null })), ...due.value.slice(first.value ? 1 : 0).map((a) => ({ key: a.id, to: target(a), words: a.words, alarm: a }))])
const grave = computed(() => Boolean(off.value) || first.value?.cost === 'danger')
useShortcuts(() => (first.value?.cost === 'time' ? [{ key: 'q', does: 'put the alarm off for ten minutes', run: () => void snooze(first.value!) }] : []))
</script>

<template>
  <section v-if="first || off" class="alarms" :class="{ live: grave }" aria-label="Alarms" aria-live="assertive">
    <ul v-if="every && rest.length" class="others" aria-label="Other alarms">
      <li v-for="r in rest" :key="r.key"><RouterLink :to="r.to">{{ r.words }}</RouterLink><button v-if="r.alarm" type="button" :aria-label="`Seen: ${r.words}`" @click="see(r.alarm.id)">Seen</button></li>
    </ul>
    <form v-if="off" class="line" @submit.prevent="isOff(off.id)">
      <RouterLink v-if="looked !== off.id" class="words" :to="stagePath(off.job_id, 'level')"><span class="word">STILL ON?</span> Job {{ String(off.job_id).padStart(4, '0') }}<template v-if="off.group">, group {{ off.group }}</template>: {{ off.says }}</RouterLink>
      <span v-if="looked !== off.id" class="mono">{{ clock(off.since) }}</span>
      <button v-if="looked !== off.id" type="button" @click="looked = off.id">I switched it off by hand</button>
      <template v-else>
        <label>Who saw that it is off<input v-model="by" maxlength="60" required autofocus /></label>
        <button type="submit" :disabled="busy || !by.trim()">Record that it is off</button><button type="button" class="linklike" @click="looked = null">Cancel</button>
        <span v-if="refusal" role="alert">{{ refusal.lines.map((l) => l.message).join(' ') }}</span>
      </template>
    </form>
    <p v-else-if="first" class="line">
      <RouterLink class="words" :to="target(first)" :title="first.words">{{ first.words }}</RouterLink><span class="mono">{{ clock(new Date(first.at).toISOString()) }}</span><button type="button" :aria-label="`Seen: ${first.words}`" @click="see(first.id)">Seen</button>
      <button v-if="first.cost === 'time'" type="button" class="linklike" @click="snooze(first)"><kbd>q</kbd> in 10 min</button>
    </p>
    <button v-if="rest.length" type="button" class="linklike more" :aria-expanded="every" @click="every = !every">{{ every ? 'close' : `${rest.length} more` }}</button>
    <button v-if="asked === 'default'" type="button" class="linklike more ask" @click="ask">notify outside this window too</button>
  </section>
</template>

<style scoped>
.alarms {
  align-items: center;
  background: repeating-linear-gradient(-45deg, var(--copper-tint) 0 8px, transparent 8px 16px), var(--sheet);
  border-top: 2px solid var(--copper);
  display: flex;
  gap: 0 18px;
  padding: 0 18px;
  position: relative;
}

.alarms.live {
  background: repeating-linear-gradient(-45deg, color-mix(in srgb, var(--hazard) 14%, transparent) 0 8px, transparent 8px 16px), var(--sheet);
  border-top-color: var(--hazard);
}

.word {
  color: var(--hazard);
  letter-spacing: 0.04em;
}

.line {
  align-items: center;
  display: flex;
  flex: 1 1 auto;
  gap: 0 12px;
  margin: 0;
  min-width: 0;
}

.line > :not(.words) {
  flex: none;
}

.words {
  flex: 0 1 auto;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

label {
  align-items: center;
  display: flex;
  gap: 10px;
}

input {
  font: inherit;
  min-height: 40px;
  width: 11em;
}

a {
  color: var(--ink);
  font-size: 18px;
  font-weight: 700;
  line-height: 44px;
}

.linklike {
  flex: none;
  margin: 0;
  white-space: nowrap;
}

.line > button:not(.linklike),
.others button {
  background: var(--sheet);
  border: 1px solid var(--petrol);
  color: var(--petrol);
  cursor: pointer;
  font: inherit;
  font-weight: 650;
  min-height: 44px;
  padding: 0 16px;
}

.others {
  background: var(--sheet);
  border: 1px solid var(--ink);
  bottom: 100%;
  display: grid;
  left: 0;
  list-style: none;
  margin: 0;
  max-height: 50vh;
  overflow: auto;
  padding: 6px 18px;
  position: absolute;
  right: 0;
  z-index: 20;
}

.others li {
  align-items: center;
  display: flex;
  gap: 14px;
  justify-content: space-between;
}

@media (max-width: 700px) {
  .alarms {
    gap: 0 8px;
    padding: 0 8px;
  }

  .line {
    gap: 0 8px;
  }

  .line .mono,
  .ask {
    display: none;
  }

  a {
    font-size: 16px;
  }
}
</style>
