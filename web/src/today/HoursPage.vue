<script setup lang="ts">
import { useSessionStorage } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import OpenFrame from '@/bench/OpenFrame.vue'
import { useAct } from '@/composables/useAct'
import { useNow } from '@/composables/useNow'
import FileButton from '@/forms/FileButton.vue'
import { following } from '@/forms/following'
import { keepDay, useCalendarQuery, useDayQuery } from './useDay'
import { clockOf, minutesOf, shortly } from './when'

/** When somebody is in the workshop, how many, and the calendar that takes time from it. */
const { data: day } = useDayQuery()
const now = useNow()
const { act, busy, refusal } = useAct()
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
// A day's hours as they are typed, "8–12, 13–17", under the number of the day. What was typed and not recorded outlives a reload.
type Form = Record<string, string>
const form = useSessionStorage<Form>('saldatura.hours', {})
// As they were when the form was filled: what another window records is shown where nothing is typed over it.
const shown = useSessionStorage<Form>('saldatura.hours-shown', {})
const saved = shallowRef(false)
const written = (hours: Schemas['ShopHours']): Form => ({
  ...Object.fromEntries(DAYS.map((_, d) => [d, (hours.opens ?? []).filter((o) => o.day === d).map((o) => `${clockOf(o.from_min)}–${clockOf(o.to_min)}`).join(', ')])),
  people: String(hours.people ?? 1),
  promise: String(hours.promise_days ?? 7),
})
function show(hours: Schemas['ShopHours'], from: Form) {
  form.value = following(written(hours), from, form.value)
  shown.value = written(hours)
}
watch(() => day.value?.hours, (hours) => hours && show(hours, shown.value), { immediate: true })

/** A day's stretches; a line that says what is wrong with them where something is. */
function stretches(text: string): { from_min: number; to_min: number }[] | string {
  const found: { from_min: number; to_min: number }[] = []
  for (const part of text.split(/[,;]|\band\b/).map((p) => p.trim()).filter(Boolean)) {
    const ends = part.split(/\s*(?:–|-|to|till|until)\s*/)
    const from = minutesOf(ends[0] ?? '')
    const to = minutesOf(ends[1] ?? '')
    if (ends.length !== 2 || from === null || to === null) return `“${part}”: type from and to, such as 8–12, 13–17`
    if (to <= from) return `“${part}” ends before it begins`
    found.push({ from_min: from, to_min: to })
  }
  return found
}
const typed = (d: number) => form.value[d] ?? ''
const wrong = computed(() => DAYS.map((_, d) => stretches(typed(d))).map((found) => (typeof found === 'string' ? found : '')))
const numberOf = (key: string) => Number((form.value[key] ?? '').trim().replace(',', '.'))
const peopleWrong = computed(() => (Number.isInteger(numberOf('people')) && numberOf('people') >= 1 && numberOf('people') <= 50 ? '' : 'type a whole number, 1 to 50'))
const promiseWrong = computed(() => (numberOf('promise') >= 0.5 && numberOf('promise') <= 365 ? '' : 'type days, 0.5 to 365'))
const whole = computed(() => !wrong.value.some(Boolean) && !peopleWrong.value && !promiseWrong.value)
function change(key: number | string, event: Event) {
  saved.value = false
  form.value = { ...form.value, [key]: (event.target as HTMLInputElement).value }
}
async function save() {
  if (!whole.value) return
  const sending = { ...form.value }
  const opens = DAYS.flatMap((_, d) => (stretches(typed(d)) as { from_min: number; to_min: number }[]).map((s) => ({ day: d, ...s })))
  const now = await act(() => settled(client.POST('/api/hours', { body: { opens, people: numberOf('people'), promise_days: numberOf('promise') } })))
  if (!now) return
  show(now.hours, sending)
  keepDay(now)
  saved.value = true
}

const where = shallowRef('')
const fileRefusal = shallowRef<Refusal | null>(null)
const { data: calendar, refetch } = useCalendarQuery()
async function bring(file: File) {
  fileRefusal.value = null
  try {
    const raw = await file.text()
    keepDay(await settled(client.POST('/api/calendar/file', { params: { query: { name: file.name.slice(0, 120) } }, body: raw, bodySerializer: (body) => body, headers: { 'Content-Type': 'text/calendar' } })))
    await refetch()
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    fileRefusal.value = error
  }
}
const follow = () =>
  act(async () => {
    keepDay(await settled(client.POST('/api/calendar', { body: { name: where.value.split('/').at(-1)?.slice(0, 120) || where.value, where: where.value, busy: [] } })))
    where.value = ''
    await refetch()
  })
const putAway = () =>
  act(async () => {
    keepDay(await settled(client.POST('/api/calendar', { body: { name: '', where: '', busy: [] } })))
    await refetch()
  })
const next = computed<Schemas['Stretch'][]>(() => (calendar.value?.busy ?? []).filter((s) => new Date(s.to_at).getTime() > now.value).slice(0, 6))
</script>

<template>
  <OpenFrame title="Hours and calendar" under="When somebody is in the workshop">
    <main class="hours">
      <h1>Hours of the week</h1>
      <p class="muted lead">The day is planned over these hours: what must be attended lies inside them. A day without hours is free.</p>
      <form v-if="'people' in form" @submit.prevent="save">
        <label v-for="(name, d) in DAYS" :key="name">
          <span>{{ name }}</span>
          <input :value="typed(d)" maxlength="80" placeholder="free" autocomplete="off" :aria-invalid="Boolean(wrong[d])" @input="change(d, $event)" />
          <span v-if="wrong[d]" class="error" role="alert">{{ wrong[d] }}</span>
        </label>
        <label class="few"><span>Pairs of hands</span><input :value="form.people" inputmode="numeric" maxlength="4" class="short" @input="change('people', $event)" /><span v-if="peopleWrong" class="error" role="alert">Pairs of hands: {{ peopleWrong }}</span></label>
        <label class="few"><span>Promise, days</span><input :value="form.promise" inputmode="decimal" maxlength="6" class="short" @input="change('promise', $event)" /><span v-if="promiseWrong" class="error" role="alert">Promise: {{ promiseWrong }}</span><span v-else class="muted">counts as due then where nothing was promised</span></label>
        <p v-if="refusal" class="error" role="alert">{{ refusal.lines.map((l) => l.message).join(' ') }}</p>
        <div class="acts"><ElButton type="primary" size="large" native-type="submit" :loading="busy" :disabled="!whole">Record the hours</ElButton><span v-if="saved" role="status">Recorded; the day is planned anew.</span></div>
      </form>
    </main>
    <aside class="side">
      <h2>Calendar</h2>
      <p class="muted">Events of a calendar take time from the hours. Only when somebody is busy is kept of it, not what for.</p>
      <template v-if="calendar?.name">
        <p><strong>{{ calendar.name }}</strong> {{ calendar.where ? 'is read again every ten minutes' : 'was read once' }}.</p>
        <ul v-if="next.length"><li v-for="s in next" :key="s.from_at" class="mono">{{ shortly(s.from_at, now) }} – {{ shortly(s.to_at, now) }}</li></ul>
        <p v-else class="muted">Nobody is busy in the next 120 days by it.</p>
        <button type="button" class="linklike" :disabled="busy" @click="putAway">Put this calendar away</button>
      </template>
      <FileButton label="Choose a calendar file (.ics)" accept="text/calendar,.ics" @chosen="bring" />
      <p v-for="line in fileRefusal?.lines" :key="line.field" class="error" role="alert">{{ line.message }}</p>
      <form class="follow" @submit.prevent="follow">
        <label>Or follow one on this machine<input v-model="where" maxlength="400" placeholder="/path/shop.ics or http://localhost/…" autocomplete="off" /></label>
        <button type="submit" class="linklike" :disabled="busy || !where.trim()">Follow it</button>
      </form>
      <h2>In your calendar</h2>
      <p class="muted">Looks, finishes and promises as a feed: <a href="/api/waiting.ics">waiting.ics</a></p>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.hours {
  align-content: start;
  display: grid;
  gap: 12px;
  overflow: auto;
  padding: 24px 32px;
}

.lead {
  max-width: 70ch;
}

form {
  display: grid;
  gap: 8px;
}

form label {
  align-items: center;
  display: grid;
  gap: 4px 14px;
  grid-template-columns: 130px minmax(0, 300px) minmax(0, 1fr);
}

input {
  background: var(--sheet);
  border: 1px solid var(--ink);
  color: var(--ink);
  font: inherit;
  font-variant-numeric: tabular-nums;
  min-height: 44px;
  min-width: 0;
  padding: 0 10px;
}

form .few {
  grid-template-columns: 130px 6em minmax(0, 1fr);
}

.short {
  width: 6em;
}

.acts {
  align-items: center;
  display: flex;
  gap: 16px;
}

.side {
  align-content: start;
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 12px;
  overflow: auto;
  padding: 24px 18px;
}

.side .linklike {
  justify-self: start;
  margin: 0;
}

.follow label {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

@media (max-width: 600px) {
  form label {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
