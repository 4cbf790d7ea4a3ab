<script setup lang="ts">
import { computed, nextTick, shallowRef, useTemplateRef } from 'vue'
import { RouterLink } from 'vue-router'
import { useAct } from '@/composables/useAct'
import { useNow } from '@/composables/useNow'
import { useShortcuts } from '@/composables/useShortcuts'
import { stagePath } from '@/router'
import { type DayNow, tellPresence } from './useDay'
import { shortly, whenOf } from './when'

/** Who is here and until when; one key says "I am away till …", and what is then not safe to leave is said at once. */
const props = defineProps<{ day: DayNow }>()
const now = useNow()
const { act, busy, refusal } = useAct()
const asking = shallowRef<'away' | 'here' | null>(null)
const typed = shallowRef('')
const wrong = shallowRef('')
const field = useTemplateRef<HTMLInputElement>('field')
const presence = computed(() => props.day.presence)
const SOON_MS = 60 * 60_000
const leaving = computed(() => presence.value.away !== null || (presence.value.here_until !== null && new Date(presence.value.here_until).getTime() - now.value < SOON_MS))
const unsafe = computed(() => (leaving.value ? props.day.plan.unsafe : []))

async function ask(what: 'away' | 'here') {
  asking.value = what
  typed.value = ''
  wrong.value = ''
  await nextTick()
  field.value?.focus()
}

async function send(until: Date, here: boolean) {
  await act(() => tellPresence(until, here))
  if (!refusal.value) asking.value = null
}

function told() {
  const until = whenOf(typed.value, new Date(now.value || Date.now()))
  wrong.value = until ? '' : 'Until when: type a time such as 14:00, or how long, such as 40 min'
  if (until) void send(until, asking.value === 'here')
}
const back = () => void send(new Date(now.value || Date.now()), !presence.value.away)
useShortcuts([{ key: 'a', does: 'say that you are away until a time', run: () => void (presence.value.away ? back() : ask('away')) }])
</script>

<template>
  <div class="presence" :class="{ gone: presence.away }">
    <form v-if="asking" class="ask" @submit.prevent="told">
      <label>{{ asking === 'away' ? 'Away till' : 'Here till' }}<input ref="field" v-model="typed" maxlength="20" placeholder="14:00 or 40 min" autocomplete="off" @keydown.esc.stop="asking = null" /></label>
      <button type="submit" class="press" :disabled="busy">{{ asking === 'away' ? 'I am away' : 'I am here' }}</button>
      <button v-if="asking === 'away' && presence.back" type="button" class="linklike" @click="send(new Date(presence.back), false)">till {{ shortly(presence.back, now) }}</button>
      <button type="button" class="linklike" @click="asking = null">Cancel</button>
      <span v-if="wrong || refusal" class="error" role="alert">{{ wrong || refusal?.lines.map((l) => l.message).join(' ') }}</span>
    </form>
    <template v-else>
      <span v-if="presence.away"><strong>Away till {{ shortly(presence.away, now) }}.</strong></span>
      <span v-else-if="presence.here_until">Here until {{ shortly(presence.here_until, now) }}<template v-if="presence.back">, back {{ shortly(presence.back, now) }}</template>.<template v-if="presence.people > 1"> {{ presence.people }} pairs of hands.</template></span>
      <span v-else>Nobody is here by the hours.</span>
      <button v-if="presence.away || presence.here" type="button" class="linklike" :disabled="busy" @click="back"><kbd v-if="presence.away">a</kbd> {{ presence.away ? 'I am back' : 'by the hours again' }}</button>
      <button v-if="!presence.away" type="button" class="linklike" @click="ask('away')"><kbd>a</kbd> I am away till …</button>
      <button v-if="!presence.away && !presence.here" type="button" class="linklike" @click="ask('here')">I stay till …</button>
      <RouterLink to="/hours" class="hours">Hours and calendar</RouterLink>
    </template>
  </div>
  <ul v-if="unsafe.length" class="unsafe" aria-label="Before nobody is here">
    <li v-for="u in unsafe" :key="`${u.job_id}${u.says}${u.groups}`" :class="u.kind">
      <span class="word">{{ u.kind === 'not_safe' ? 'NOT SAFE TO LEAVE' : 'NOBODY WILL SEE' }}</span>
      <RouterLink :to="stagePath(u.job_id, u.stage)">{{ u.pack_name }}<template v-if="u.groups.length">, group {{ u.groups.join(', ') }}</template></RouterLink> {{ u.says }}<template v-if="u.at"> ({{ shortly(u.at, now) }})</template>
    </li>
  </ul>
</template>

<style scoped>
.presence,
.ask {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  min-height: 44px;
}

.gone {
  color: var(--copper);
}

label {
  align-items: center;
  display: flex;
  gap: 8px;
  font-weight: 650;
}

input {
  background: var(--sheet);
  border: 1px solid var(--ink);
  color: var(--ink);
  font: inherit;
  min-height: 44px;
  padding: 0 10px;
  width: 10em;
}

.hours {
  display: inline-block;
  padding: 11px 0;
}

.unsafe {
  display: grid;
  gap: 4px;
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}

.unsafe li {
  background: linear-gradient(var(--sheet), var(--sheet)) 8px 0 / 100% no-repeat, repeating-linear-gradient(-45deg, var(--hazard) 0 6px, transparent 6px 11px) 0 0 / 8px 100% no-repeat;
  padding: 2px 12px 2px 18px;
}

.unsafe .unseen {
  background: linear-gradient(var(--sheet), var(--sheet)) 8px 0 / 100% no-repeat, repeating-linear-gradient(-45deg, var(--copper) 0 6px, transparent 6px 11px) 0 0 / 8px 100% no-repeat;
}

.word {
  color: var(--hazard);
  font-weight: 700;
  letter-spacing: 0.03em;
  margin-right: 8px;
}

.unseen .word {
  color: var(--copper);
}

.unsafe a {
  display: inline-block;
  font-weight: 650;
  padding: 11px 0;
}
</style>
