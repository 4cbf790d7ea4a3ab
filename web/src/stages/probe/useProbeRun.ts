import { computed, type ComputedRef, nextTick, ref, shallowRef, watch } from 'vue'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { type JobView, keepJob } from '@/api/queries'
import { parseVolts, stepOf } from '@/composables/parseVolts'
import { splitLine } from '@/forms/quantity'
import type { Point } from '@/composables/useFigure'
import { Question } from '@/composables/question'
import { say, tone } from '@/composables/useVoice'

export type RunPoint = Schemas['RunPoint']
type Purpose = 'probe' | 'prove' | 'load'
export type Scheme = string

// A pin that is read again moves by less, unless something was done to it.
const CHANGED_V = 0.1

const same = (a: Point, b: Point) => JSON.stringify(a) === JSON.stringify(b)

/** The probe run: which point is next, what was typed for it, and storing it before the next is announced. */
export function useProbeRun(job: ComputedRef<JobView>, purpose: Purpose, order: string | null = null) {
  const schemes = computed(() => Object.keys(job.value.assessment[purpose]?.runs ?? job.value.assessment.blank_runs))
  // Of a pack whose pattern knows its contacts, what can be read without opening comes first.
  const fromOutside = () => purpose === 'probe' && !job.value.assessment.probe?.readings.length && Boolean(job.value.assessment.pattern) && (job.value.facts.intake.outside_taps?.length ?? 0) > 0
  const scheme = shallowRef<Scheme>(schemes.value.find((s) => s === order) ?? (fromOutside() ? 'outside' : null) ?? job.value.assessment[purpose]?.used ?? 'taps')
  const text = ref('')
  // On the cell's own tab a reading corrects none at the pin: it stands beside it and shows what the wire does.
  const place = ref<'pin' | 'tab'>('pin')
  // The point chosen by hand or held while typing, and the reading that stood there then: one that another window
  // adds meanwhile is joined by ours, not replaced. Null: the next open point from `from` on.
  const held = shallowRef<{ index: number; replaces: number | null; typing: boolean } | null>(null)
  const from = shallowRef(0)
  const refusal = shallowRef<Refusal | null>(null)
  const questioned = shallowRef<{ text: string; volts: number; why: string } | null>(null)

  const assessed = computed(() => job.value.assessment[purpose])
  const points = computed<RunPoint[]>(() => assessed.value?.runs[scheme.value] ?? blankRun(job.value, scheme.value))
  const firstOpen = computed(() => {
    // What is wanted on the cells' own tabs is open although its pin was read.
    const verdict = assessed.value?.verdict
    const onTabs = (p: RunPoint) => scheme.value === 'needed' && verdict?.next_place === 'tab' && verdict.next_reading !== null && same(verdict.next_reading, p.point)
    const open = (p: RunPoint) => p.reading_id === null || Boolean(p.again) || onTabs(p)
    const after = points.value.findIndex((p, i) => i >= from.value && open(p))
    return after >= 0 ? after : points.value.findIndex(open)
  })
  // Then it is opened, and the taps follow.
  watch(firstOpen, (now) => now < 0 && scheme.value === 'outside' && purpose === 'probe' && job.value.assessment.pattern && order !== 'outside' && ((from.value = 0), (scheme.value = 'taps')))
  const at = computed(() => {
    const i = held.value?.index ?? firstOpen.value
    return i >= 0 && i < points.value.length ? i : null
  })
  // Two taps picked in the figure that the scheme does not read; the run goes on after it.
  const aside = shallowRef<RunPoint | null>(null)
  const current = computed(() => aside.value ?? (at.value === null ? null : points.value[at.value]!))

  watch(
    () => current.value?.words,
    (words) => words && say(words),
    { immediate: true },
  )

  // The reading that was asked for on the cells' own tabs is taken there, and the run is back at the pins after it.
  const askedOnTabs = computed(() => {
    const verdict = assessed.value?.verdict
    // What was mended since is proved where it was found, at the pin.
    return verdict?.next_place === 'tab' && verdict.next_reading && current.value && !current.value.again ? same(verdict.next_reading, current.value.point) : false
  })
  watch(askedOnTabs, (now) => (place.value = now ? 'tab' : 'pin'), { immediate: true })
  watch(() => Boolean(current.value?.again), (again) => again && (place.value = 'pin'))

  // A reading that was taken back is the next one again.
  watch(points, (now, before) => {
    const back = now.findIndex((p, i) => p.reading_id === null && before[i]?.reading_id != null && same(p.point, before[i]!.point))
    if (back >= 0 && back < from.value) from.value = back
  })

  function hold(index: number, typing = false) {
    held.value = { index, replaces: points.value[index]?.reading_id ?? null, typing }
    if (!typing) questioned.value = null
  }

  function moveOn(index: number) {
    if (aside.value) {
      aside.value = null
      return
    }
    held.value = null
    // What is still needed shrinks as it is read: the next one is the first again.
    // What is read in another order by now goes on where that is open.
    from.value = scheme.value === 'needed' || index >= points.value.length || points.value[index]!.reading_id === null ? 0 : index + 1
  }

  // A point does not change under the fingers: while something is typed it stays, whatever another window reads.
  watch(text, (now) => {
    if (now && !aside.value && !held.value && at.value !== null) hold(at.value, true)
    if (!now && held.value?.typing && !storing) held.value = null
    // What was said of one line is not true of the next.
    if (now !== kept) refusal.value = null
  }, { flush: 'sync' })

  /** What the typed number means at this point. */
  function meant(point: RunPoint, typed: string): number | null {
    return parseVolts(
      typed,
      { low: point.expected_low_v, high: point.expected_high_v },
      { low: point.plausible_low_v, high: point.plausible_high_v },
    )
  }
  const preview = computed(() => {
    const first = splitLine(text.value)[0]
    return current.value && first ? meant(current.value, first) : null
  })

  // A reading whose answer was lost is sent again under the same key: it is recorded once, whatever became of the first.
  let unanswered: { words: string; volts: number | null; place: string; key: string } | null = null

  async function store(point: RunPoint, volts: number | null, reason = '', source = 'typed', step: number | null = null): Promise<boolean> {
    const supersedes = place.value === 'tab' ? point.tab_reading_id : held.value && !aside.value ? held.value.replaces : point.reading_id
    const again = unanswered?.words === point.words && unanswered.volts === volts && unanswered.place === place.value
    const key = again ? unanswered!.key : crypto.randomUUID()
    try {
      const view = await settled(
        client.POST('/api/jobs/{job_id}/readings', {
          // It arrives also where the page is left at once.
          keepalive: true,
          params: { path: { job_id: job.value.facts.id } },
          body: { purpose, point: point.point, volts, key, supersedes, source, place: place.value, resolution_v: step, reason: reason || (supersedes ? point.again || 'read again' : '') },
        }),
      )
      keepJob(view)
      refusal.value = unanswered = null
      return true
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      unanswered = error.status === 0 ? { words: point.words, volts, place: place.value, key } : null
      refusal.value = error
      return false
    }
  }

  // Numbers taken off the field and not stored yet: the next one can be typed while these are on their way.
  const queue: { typed: string; confirmed: boolean }[] = []
  let storing = false
  // The line that was put back because of a refusal.
  let kept = ''
  const question = new Question()
  watch(questioned, (now) => (now ? question.ask(now.text) : question.drop()), { flush: 'sync' })

  /** Take the line as it stands: each number in turn for each point in turn; what is refused or questioned stays. */
  async function accept() {
    const typed = splitLine(text.value)
    if (!typed.length && !storing) held.value = aside.value = null
    const confirmed = question.answeredBy(text.value)
    queue.push(...typed.map((each) => ({ typed: each, confirmed })))
    if (!queue.length) return
    questioned.value = null
    // Before the field is emptied, so that the point held for it stays held.
    const others = storing
    storing = true
    text.value = ''
    if (others) return
    while (queue.length && current.value && (await storeNext(current.value))) {
      queue.shift()
      await nextTick()
    }
    storing = false
    const left = queue.splice(0).map((each) => each.typed)
    if (left.length && !current.value) refusal.value = new Refusal([{ field: 'volts', message: `Every point is read; “${left.join(' ')}” belongs to none. Pick a point in the figure to read it again.` }], 0)
    kept = [...left, text.value].join(' ').trim()
    text.value = kept
  }

  /** Store the number at the head of the queue; false where it is refused or questioned. */
  async function storeNext(point: RunPoint): Promise<boolean> {
    const { typed, confirmed } = queue[0]!
    const volts = meant(point, typed)
    if (volts === null) {
      refusal.value = new Refusal([{ field: 'volts', message: `“${typed}” is not a number; type volts such as 4.11, 4,11 or 411` }], 0)
      return false
    }
    const why = whyAsked(point, volts)
    if (why && !confirmed) {
      questioned.value = { text: queue.map((each) => each.typed).join(' '), volts, why }
      tone('questioned')
      return false
    }
    const index = at.value ?? points.value.length
    if (!(await store(point, volts, why ? 'confirmed as read' : '', 'typed', stepOf(typed, volts)))) return false
    tone('accepted')
    moveOn(index)
    return true
  }

  // Where a wire is in doubt and nothing was mended, another value at the pin is most likely one of the cell's own tab.
  function whyAsked(point: RunPoint, volts: number): string | null {
    if (volts < point.plausible_low_v || volts > point.plausible_high_v) return whyQuestioned(point, volts)
    const moved = point.volts !== null && Math.abs(volts - point.volts) > CHANGED_V
    if (place.value === 'pin' && moved && !point.again && assessed.value?.verdict.next_place === 'tab')
      return `${point.words} read ${point.volts!.toFixed(2)} V at the pin before. If this is on the cell’s own tab, press Escape, then t; if the wire was mended, note that first with w.`
    return null
  }

  /** Take a value from a live meter for the point at hand; one that cannot be is questioned, unless it is forced. */
  async function take(volts: number, source: string, confirmed = false) {
    const point = current.value
    const index = at.value ?? points.value.length
    if (!point) return
    const why = whyAsked(point, volts)
    if (why && !confirmed) {
      questioned.value = { text: '', volts, why }
      tone('questioned')
      return
    }
    questioned.value = null
    if (!(await store(point, volts, why ? 'confirmed as read' : '', source))) return
    tone('accepted')
    moveOn(index)
  }

  async function unreachable() {
    if (!current.value) return
    const index = at.value ?? points.value.length
    if (await store(current.value, null, 'cannot reach')) moveOn(index)
  }

  /** Leave a point open for now; the run comes back to it at the end. */
  function skip() {
    if (aside.value) aside.value = null
    else if (at.value !== null) {
      from.value = at.value + 1
      held.value = null
    }
    questioned.value = null
  }

  function stepBack() {
    if (aside.value) {
      aside.value = null
      return
    }
    const i = at.value ?? points.value.length
    hold(Math.max(i - 1, 0))
    questioned.value = null
  }

  /** Read again what was read last. */
  function readAgain() {
    const read = points.value.map((p, i) => ({ i, id: p.reading_id ?? -1 })).filter((p) => p.id >= 0)
    const last = read.sort((a, b) => b.id - a.id)[0]
    if (last) hold(last.i)
  }

  function switchScheme() {
    scheme.value = schemes.value[(schemes.value.indexOf(scheme.value) + 1) % schemes.value.length]!
    held.value = null
    from.value = 0
  }

  async function goTo(point: Point) {
    aside.value = null
    if (point.kind === 'span') {
      held.value = null
      const query = { from_tap: point.from_tap, to_tap: point.to_tap, purpose }
      try {
        aside.value = await settled(client.GET('/api/jobs/{job_id}/span', { params: { path: { job_id: job.value.facts.id }, query } }))
      } catch (error) {
        if (!(error instanceof Refusal)) throw error
        refusal.value = error
      }
      return
    }
    if (!points.value.some((p) => same(p.point, point))) scheme.value = point.kind === 'group' ? 'groups' : 'taps'
    const i = points.value.findIndex((p) => same(p.point, point))
    if (i >= 0) hold(i)
  }

  return { accept, assessed, at, current, goTo, place, points, preview, questioned, readAgain, refusal, scheme, skip, stepBack, switchScheme, take, text, unreachable }
}

function whyQuestioned(point: RunPoint, volts: number): string {
  const low = point.plausible_low_v.toFixed(2).replace('-', '−')
  return `${volts.toFixed(2).replace('-', '−')} V cannot be right at ${point.words}: with what is known it lies between ${low} and ${point.plausible_high_v.toFixed(2)} V.`
}

/** The run before a set exists; the first reading opens one, and the program's own ranges take over. */
function blankRun(job: JobView, scheme: Scheme): RunPoint[] {
  return job.assessment.blank_runs[scheme] ?? []
}
