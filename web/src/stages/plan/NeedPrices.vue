<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { following } from '@/forms/following'
import { quantity, sent, type Unit, wrongWith } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useMoney } from '@/composables/useMoney'
import type { JobPlan, Told } from './usePlan'
import TextField from '@/forms/TextField.vue'
import Choice from '@/forms/Choice.vue'

/** What the device wants and what things cost: weighed with every key, kept once a field is left. */
const props = defineProps<{ plan: JobPlan; closed: boolean }>()
const emit = defineEmits<{ asked: [Told | null] }>()
const job = useJob()
const { currency } = useMoney()
const { act, busy, refusal } = useAct()
type Key = 'load_a' | 'peak_a' | 'wanted_ah' | 'cutoff_v' | 'charger_v' | 'cycles_a_year' | 'labour_h' | 'cell' | 'board' | 'original' | 'copy' | 'small_parts' | 'disposal'
const FIELDS: { key: Key; name: string; part: 'need' | 'prices'; unit?: Unit; more?: boolean }[] = [
  { key: 'load_a', name: 'Load that lasts, A', part: 'need', unit: 'A' },
  { key: 'wanted_ah', name: 'Ah of a run', part: 'need', unit: 'Ah' },
  { key: 'labour_h', name: 'Hour at the bench', part: 'prices', unit: 'money' },
  { key: 'cell', name: 'New cell', part: 'prices', unit: 'money' },
  { key: 'original', name: 'New original', part: 'prices', unit: 'money' },
  { key: 'copy', name: 'A copy', part: 'prices', unit: 'money' },
  { key: 'board', name: 'Board', part: 'prices', unit: 'money' },
  { key: 'peak_a', name: 'Peak, A', part: 'need', unit: 'A', more: true },
  { key: 'cutoff_v', name: 'Device cuts off at, V', part: 'need', unit: 'V', more: true },
  { key: 'charger_v', name: 'Charger goes to, V', part: 'need', unit: 'V', more: true },
  { key: 'cycles_a_year', name: 'Full runs a year', part: 'need', more: true },
  { key: 'small_parts', name: 'Strip and wire', part: 'prices', unit: 'money', more: true },
  { key: 'disposal', name: 'Disposal', part: 'prices', unit: 'money', more: true },
]
const LACKS: Record<Schemas['NewNeed']['copy_lacks'][number], string> = { temperature_sensor: 'temperature sensor', fuse: 'fuse', group_limits: 'limits for each group', balancing: 'levelling' }
const text = ref<Record<string, string>>({})
const lacks = ref<Told['copy_lacks']>([])
const size = ref('')
const wish = ref<Told['wish']>(null)
const adjustable = ref(false)
const donor = ref({ has: false, ah: '' })
const more = ref(false)
const typing = ref(false)
// Counts what was typed: what is kept meanwhile must not be shown over it.
let strokes = 0
let again = false
// The last fact that this form knows of: what another window told since is not written over.
let known = 0

/** A value as its field holds it: as it was typed where that is the same number, for a field rewritten under a hand loses what is selected in it. */
function written(key: Key, value: number | null | undefined): string {
  if (value === null || value === undefined || (value === 0 && (key === 'small_parts' || key === 'disposal'))) return ''
  const typed = text.value[key] ?? ''
  return quantity(typed, FIELDS.find((f) => f.key === key)?.unit) === value ? typed : String(value)
}

/** The form by its fields, as a plan fills it. */
type Filled = Record<string, unknown>
let shown: Filled = {}
function filled(plan: JobPlan): Filled {
  const { copy_lacks, cell_size, wish, donor } = plan.entered
  const said = { ...plan.need, ...plan.prices } as unknown as Record<string, number | null>
  const texts = Object.fromEntries(FIELDS.map(({ key }) => [key, written(key, said[key])]))
  return { ...texts, lacks: [...copy_lacks], size: cell_size, wish: wish ?? null, adjustable: plan.need.charger_adjustable, donor: { has: Boolean(donor), ah: donor?.capacity_ah ? String(donor.capacity_ah) : '' } }
}
const standing = (): Filled => ({ ...text.value, lacks: lacks.value, size: size.value, wish: wish.value, adjustable: adjustable.value, donor: { ...donor.value } })
function fill(form: Filled) {
  text.value = Object.fromEntries(FIELDS.map(({ key }) => [key, form[key] as string]))
  lacks.value = form.lacks as Told['copy_lacks']
  size.value = form.size as string
  wish.value = form.wish as Told['wish']
  adjustable.value = form.adjustable as boolean
  donor.value = form.donor as typeof donor.value
}
function show(plan: JobPlan) {
  known = job.value.facts.last_id
  shown = filled(plan)
  fill(shown)
}
watch(() => props.plan, (plan) => { if (!typing.value) show(plan) }, { immediate: true })
/** Another window told something meanwhile: what was not touched here is theirs now, what is typed stays, to be sent again. */
async function joinTheirs() {
  const params = { path: { job_id: job.value.facts.id } }
  // The job first: what is told between the two is refused once more, and not written over.
  const { facts } = await settled(client.GET('/api/jobs/{job_id}', { params }))
  const theirs = filled(await settled(client.GET('/api/jobs/{job_id}/plan', { params })))
  fill(following(theirs, shown, standing()))
  shown = theirs
  known = facts.last_id
}

/** What is typed, as it is sent; null while something of it is no number. */
function entered(): Told | null {
  const need: Record<string, unknown> = { charger_adjustable: adjustable.value }
  const prices: Record<string, unknown> = {}
  for (const { key, part, unit } of FIELDS) {
    if (wrongWith(text.value[key], unit)) return null
    const value = sent(text.value[key], unit)
    if (value !== null) (part === 'need' ? need : prices)[key] = value
  }
  if (wrongWith(donor.value.ah, 'Ah')) return null
  const block = donor.value.has ? { name: 'a sister pack', capacity_ah: sent(donor.value.ah, 'Ah') } : null
  return { need, prices, copy_lacks: lacks.value, donor: block, cell_size: size.value, wish: wish.value } as unknown as Told
}
const preview = useDebounceFn(() => { if (typing.value) emit('asked', entered()) }, 350)
function type() {
  typing.value = true
  strokes += 1
  refusal.value = null
  void preview()
}
async function keep(): Promise<void> {
  const body = entered()
  if (!body || props.closed) return
  // One at a time: a field left while another is being kept is kept after it.
  if (busy.value) {
    again = true
    return
  }
  const seen = strokes
  const sending = standing()
  const kept = await act(() => settled(client.POST('/api/jobs/{job_id}/need', { params: { path: { job_id: job.value.facts.id }, query: { seen: known } }, body })))
  if (kept) {
    known = kept.facts.last_id
    shown = sending
  } else if (refusal.value?.on('stale')) await joinTheirs()
  if (again) {
    again = false
    return keep()
  }
  if (!kept || strokes !== seen) return
  typing.value = false
  emit('asked', null)
}
// Every repair by its plain name: what comes with another is answered as the one that was wished for.
const WISHES: Record<Schemas['Repair']['repair'], string> = {
  clean_connector: 'clean the plug', mend_wire: 'mend the wire', mend_joint: 'mend the joint', level: 'level it', replace_groups: 'new cells in some groups', donor_cells: 'donor cells', recell: 'new cells throughout', drop_group: 'one group fewer', replace_board: 'another board', repair_board: 'mend the board', transplant: 'a sister pack’s block', original: 'a new original', copy: 'a copy', retire: 'retire it',
}
const wishes = computed(() => (more.value ? WISHES : wish.value ? { [wish.value]: WISHES[wish.value] } : {}) as Partial<typeof WISHES>)
function ask(key: keyof typeof WISHES) {
  wish.value = wish.value === key ? null : key
  typing.value = true
  strokes += 1
  void keep()
}
const wrong = (key: string) => refusal.value?.on(`prices.${key}`) ?? refusal.value?.on(`need.${key}`)
function lack(key: keyof typeof LACKS) {
  lacks.value = lacks.value.includes(key) ? lacks.value.filter((k) => k !== key) : [...lacks.value, key]
  typing.value = true
  strokes += 1
  void keep()
}
</script>

<template>
  <section class="told" aria-label="Need and prices">
    <h2>Need and prices <span v-if="plan.from_job" class="muted from-job">as entered last for such a pack, on job {{ plan.from_job }}</span></h2>
    <form class="fields" @submit.prevent="keep" @change="keep">
      <NumberField v-for="f in FIELDS.filter((f) => more || !f.more)" :key="f.key" v-model="text[f.key]" bare :unit="f.unit" :label="f.unit === 'money' ? `${f.name}, ${currency}` : f.name" :error="wrong(f.key)" :disabled="closed" @input="type" />
      <TextField v-model="size" label="Cells’ size" maxlength="30" placeholder="18650" :disabled="closed" @input="type" />
    </form>
    <Choice v-if="more" label="A copy lacks" lead="A copy lacks" :options="LACKS" :chosen="(key) => lacks.includes(key)" :disabled="closed" @choose="(key) => lack(key)" />
    <div v-if="more" class="chips"><button type="button" class="chip" :aria-pressed="adjustable" :disabled="closed" @click="adjustable = !adjustable; type(); keep()">charger can be set to another count</button><button type="button" class="chip" :aria-pressed="donor.has" :disabled="closed" @click="donor.has = !donor.has; type(); keep()">a sister pack could give its block</button><ElInput v-if="donor.has" v-model="donor.ah" aria-label="Its block holds, Ah" placeholder="it holds, Ah" class="holds" inputmode="decimal" @input="type" @change="keep" /></div>
    <Choice v-if="more || wish" label="The customer wishes for" lead="The customer wishes for" :options="wishes" :chosen="(key) => wish === key" :disabled="closed" @choose="(key) => ask(key)" />
    <button type="button" class="linklike" @click="more = !more">{{ more ? 'fewer fields' : 'more fields' }}</button>
    <p v-if="refusal && !FIELDS.some((f) => refusal!.on(`prices.${f.key}`) || refusal!.on(`need.${f.key}`))" class="error" role="alert">{{ refusal.message }} <button v-if="refusal.on('stale')" type="button" class="linklike" @click="keep">send mine again</button></p>
    <p v-if="busy" class="visually-hidden" role="status">keeping</p>
  </section>
</template>

<style scoped>
.told {
  display: grid;
  gap: 8px;
}

.from-job {
  font-size: 14px;
  font-weight: 400;
}

.fields {
  display: grid;
  gap: 8px 14px;
  grid-template-columns: repeat(auto-fill, minmax(118px, 1fr));
}

.chips {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
}

.holds {
  width: 130px;
}

.linklike {
  justify-self: start;
  margin: 0;
}
</style>
