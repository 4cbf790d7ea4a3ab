<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { queryClient, useWaitingQuery } from '@/api/queries'
import { client, settled } from '@/api/client'
import { clock } from '@/composables/format'
import { type Alarm, useAlarms } from '@/composables/useAlarms'
import { useAct } from '@/composables/useAct'
import { useNow } from '@/composables/useNow'
import { useShortcuts } from '@/composables/useShortcuts'
import { mutedUntil } from '@/composables/useVoice'
import { stagePath } from '@/router'

/**
 * What rings now: a look that is due, a finish. It stays, in every window, until somebody says that it is seen. What would not go off
 * stays until it confirms, or until somebody who looked says by name that it is off.
 */
const { due: all, see } = useAlarms()
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
// The loudest alone, so that the hand is not asked to choose; the others at a press.
const every = ref(false)
const shown = computed(() => (every.value ? due.value : due.value.slice(0, 1)))
const MUTE_MS = 10 * 60_000
const now = useNow()
const muted = computed(() => mutedUntil.value > now.value)
const mute = () => (mutedUntil.value = muted.value ? 0 : Date.now() + MUTE_MS)
useShortcuts(() => (due.value.length || notOff.value.length ? [{ key: 'q', does: muted.value ? 'sound alarms again' : 'mute alarms for ten minutes', run: () => void mute() }] : []))
</script>

<template>
  <section v-if="due.length || notOff.length" class="alarms" :class="{ live: notOff.length }" aria-label="Alarms" aria-live="assertive">
    <form v-for="n in notOff" :key="n.id" class="not-off" @submit.prevent="isOff(n.id)">
      <RouterLink :to="stagePath(n.job_id, 'level')"><span class="word">STILL ON?</span> Job {{ String(n.job_id).padStart(4, '0') }}<template v-if="n.group">, group {{ n.group }}</template>: {{ n.says }}</RouterLink><span class="mono">{{ clock(n.since) }}</span>
      <button v-if="looked !== n.id" type="button" @click="looked = n.id">I switched it off by hand</button>
      <template v-else>
        <label>Who saw that it is off<input v-model="by" maxlength="60" required autofocus /></label>
        <button type="submit" :disabled="busy || !by.trim()">Record that it is off</button><button type="button" class="linklike" @click="looked = null">Cancel</button>
        <span v-if="refusal" role="alert">{{ refusal.lines.map((l) => l.message).join(' ') }}</span>
      </template>
    </form>
    <p v-for="a in shown" :key="a.id"><RouterLink :to="target(a)">{{ a.words }}</RouterLink><span class="mono">{{ clock(new Date(a.at).toISOString()) }}</span><button type="button" :aria-label="`Seen: ${a.words}`" @click="see(a.id)">Seen</button></p>
    <button v-if="due.length > 1" type="button" class="linklike" :aria-expanded="every" @click="every = !every">{{ every ? 'only the first' : `${due.length - 1} more` }}</button>
    <button type="button" class="linklike" :aria-pressed="muted" @click="mute"><kbd>q</kbd> {{ muted ? `muted until ${clock(new Date(mutedUntil).toISOString())}` : 'mute' }}</button>
    <button v-if="asked === 'default'" type="button" class="linklike" @click="ask">notify outside this window too</button>
  </section>
</template>

<style scoped>
.alarms {
  align-items: center;
  background: repeating-linear-gradient(-45deg, var(--copper-tint) 0 8px, transparent 8px 16px), var(--sheet);
  border-top: 2px solid var(--copper);
  display: flex;
  flex-wrap: wrap;
  gap: 2px 26px;
  padding: 4px 18px;
}

.alarms.live {
  background: repeating-linear-gradient(-45deg, color-mix(in srgb, var(--hazard) 14%, transparent) 0 8px, transparent 8px 16px), var(--sheet);
  border-top-color: var(--hazard);
}

.word {
  color: var(--hazard);
  letter-spacing: 0.04em;
}

label {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
}

input {
  font: inherit;
  min-height: 44px;
  width: 11em;
}

p,
.not-off {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin: 0;
}

a {
  color: var(--ink);
  font-size: 18px;
  font-weight: 700;
}

p button,
.not-off button:not(.linklike) {
  background: var(--sheet);
  border: 1px solid var(--petrol);
  color: var(--petrol);
  cursor: pointer;
  font: inherit;
  font-weight: 650;
  min-height: 44px;
  padding: 0 16px;
}
</style>
