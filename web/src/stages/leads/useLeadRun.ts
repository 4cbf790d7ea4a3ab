import { computed, type ComputedRef, ref, shallowRef, watch } from 'vue'
import { client, settled } from '@/api/client'
import type { JobView } from '@/api/queries'
import { parseNumber, parseVolts } from '@/composables/parseVolts'
import { useAct } from '@/composables/useAct'
import { useLive } from '@/composables/useLive'
import { useMeter } from '@/composables/useMeter'
import { Question } from '@/composables/question'
import { say, tone } from '@/composables/useVoice'
import { type NotedLead, parseLead } from './parseLead'

const MOST_GROUP_V = 4.5

/** Loose leads measured one by one, then joined one by one; each number typed, or taken from a live meter. */
export function useLeadRun(job: ComputedRef<JobView>) {
  const { act, busy, refusal } = useAct()
  const { frame } = useLive()
  const joining = computed(() => job.value.assessment.joining ?? null)
  const series = computed(() => job.value.facts.intake.pack.series)
  const leads = computed(() => joining.value?.leads ?? [])
  // No lead reads beyond the string at its fullest.
  const span = computed(() => ({ low: -series.value * MOST_GROUP_V, high: series.value * MOST_GROUP_V }))
  const reference = computed(() => leads.value[0]?.lead ?? null)

  // The leads are being measured until there are as many as taps; then the joining begins. Either can be gone back to.
  const measuring = shallowRef(true)
  watch(() => [leads.value.length, joining.value?.measuring] as const, ([count, open]) => (measuring.value = count < series.value + 1 || open === true), { immediate: true })
  const next = computed(() => joining.value?.next ?? null)
  const wrong = computed(() => joining.value?.pins.find((p) => p.state === 'wrong') ?? null)
  const pin = computed(() => (wrong.value ? { tap: wrong.value.tap, lead: wrong.value.lead!, expected_v: wrong.value.expected_v! } : next.value))

  const text = ref('')
  // A name that was put into the field by itself is typed over: the view selects it when this changes.
  const prefilled = ref(0)
  const question = new Question()
  const said = shallowRef<string | null>(null)

  // A virtual pack's bundle: the leads that hang off it and are not measured yet.
  const bundle = computed(() => (frame.value?.virtual?.loose ?? []).filter((name) => leads.value.every((l) => l.lead !== name)))
  // A lead named and not yet read: what a meter shows is its reading.
  const held = computed(() => (measuring.value && bundle.value.includes(text.value.trim()) ? text.value.trim() : null))
  const named = computed(() => held.value ?? (measuring.value && text.value.trim() && parseNumber(text.value.trim().split(/\s+/).at(-1)!) === null ? text.value.trim() : null))

  const live = useMeter(
    () => job.value.facts.id,
    () => {
      if (measuring.value) return held.value && reference.value ? { at: 'leads', black_lead: reference.value, red_lead: held.value } : null
      return pin.value && pin.value.tap > 0 ? { at: 'taps', black: 0, red: pin.value.tap } : null
    },
    // A real meter's value waits for Enter: a name half typed is none. A simulated hand holds what was picked.
    (volts) => {
      if (!live.standIn.value || busy.value) return null
      if (measuring.value) return held.value && reference.value ? note({ lead: held.value, volts }) : null
      return pin.value && pin.value.tap > 0 && !text.value && !wrong.value ? join(volts) : null
    },
  )

  const path = computed(() => ({ params: { path: { job_id: job.value.facts.id } } }))

  /** Take what is typed; where no volts are, what the live meter shows. */
  async function accept() {
    said.value = null
    if (measuring.value) {
      const known = leads.value.map((l) => l.lead)
      const typed = (held.value && known.length ? read() : null) ?? parseLead(text.value, known, span.value) ?? read()
      if (typed && Math.abs(typed.volts) > span.value.high && !question.answeredBy(text.value)) {
        question.ask(text.value)
        said.value = `${typed.volts} V is more than the whole string can have, ${span.value.high.toFixed(1)} V; Enter once more keeps it`
      } else if (typed) await note({ ...typed, corrects: known.includes(typed.lead) && !('again' in typed) && !held.value })
      else said.value = leads.value.length ? `“${text.value}” has no volts; type the lead and its reading, such as red 11.62` : 'Name the lead that all others are measured against'
      return
    }
    // Pin 0 is what all others are read against from now on: 0 unless it is said otherwise.
    const at = pin.value?.expected_v ?? 0
    const volts = text.value.trim() ? parseVolts(text.value, { low: at - 0.5, high: at + 0.5 }, { low: -span.value.high, high: span.value.high }) : pin.value?.tap === 0 ? 0 : (live.now()?.volts ?? null)
    if (!pin.value || volts === null) said.value = `“${text.value}” is not a number; type what pin ${pin.value?.tap} reads against pin 0`
    else await join(volts)
  }

  function read() {
    const shown = named.value ? live.now() : null
    return shown ? { lead: named.value!, volts: shown.volts } : null
  }

  async function note({ lead, volts, again, corrects = false }: NotedLead & { corrects?: boolean }) {
    for (const [i, value] of [volts, again].entries()) {
      if (value === undefined) continue
      if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/leads', { ...path.value, body: { lead, volts: value, corrects: corrects && i === 0, reason: '' } }))))) return
    }
    done()
    // The simulated hand takes the next one up by itself.
    if (live.standIn.value && bundle.value.length) {
      text.value = bundle.value[0]!
      prefilled.value++
    }
  }

  async function join(volts: number) {
    const body = { tap: pin.value!.tap, lead: pin.value!.lead, volts }
    if (await act(() => settled(client.POST('/api/jobs/{job_id}/leads/joined', { ...path.value, body })))) done()
  }

  function done() {
    question.drop()
    text.value = ''
    tone(joining.value?.pins.some((p) => p.state === 'wrong') ? 'questioned' : 'accepted')
  }

  const takeOff = (lead: string, reason: string) => act(() => settled(client.POST('/api/jobs/{job_id}/leads', { ...path.value, body: { lead, volts: null, corrects: false, reason } })))

  const title = computed(() => {
    if (measuring.value) return leads.value.length === 0 ? 'Which lead is the reference?' : `Lead ${leads.value.length + 1} of ${series.value + 1}`
    if (joining.value?.done) return 'Every lead is on its pin'
    if (wrong.value) return `Pin ${wrong.value.tap} is not right`
    if (next.value) return `Join ${next.value.lead} to pin ${next.value.tap}`
    return joining.value?.stop ? 'Nothing is joined yet' : 'Nothing to join'
  })
  watch(title, (words) => say(words))

  return { accept, bundle, busy, joining, leads, live, measuring, pin, prefilled, refusal, said, series, takeOff, text, title, wrong }
}
