<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, toRef } from 'vue'
import { RouterLink } from 'vue-router'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { day, percent } from '@/composables/format'
import { sent, sentMilliohms, wrongWith } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useSettings } from '@/composables/useSettings'
import { stagePath } from '@/router'
import { milliohms, useAnew, useCell } from './useCells'
import TextField from '@/forms/TextField.vue'

/** One cell: its grade with every reason, its tests, where it was; and what can be recorded of it. */
const props = defineProps<{ name: string; grades: { key: string; name: string }[]; seen: Schemas['Catalogue']['seen'] }>()
const { data: whole, error } = useCell(toRef(props, 'name'))
const settings = useSettings()
const anew = useAnew()
const { act, busy, refusal } = useAct()
const SEEN: Record<string, string> = { dent: 'a dent', rust: 'rust', leak: 'it leaks', wrap: 'wrap torn', swollen: 'swollen', reversed: 'reversed', unfinished: 'did not finish its test' }
const typed = ref({ ah: '', amps: '', dc: '', ac: '', rest: '', rise: '' })
const looked = ref<string[] | null>(null)
const why = ref('')
const box = ref('')
const moving = ref<'drawer' | 'scrap' | null>(null)
const backing = ref<number | null>(null)
const cell = computed(() => whole.value?.cell)
const said = computed(() => Object.values(typed.value).some((t) => t.trim()) || looked.value !== null)

function tick(what: string) {
  const now = looked.value ?? []
  looked.value = now.includes(what) ? now.filter((w) => w !== what) : [...now, what]
}
async function keep() {
  const t = typed.value
  const wrong = Object.entries({ Capacity: wrongWith(t.ah, 'Ah'), 'At a current of': wrongWith(t.amps, 'A'), 'DC resistance': wrongWith(t.dc, 'mΩ'), 'AC resistance': wrongWith(t.ac, 'mΩ'), 'Rests at': wrongWith(t.rest, 'V'), 'Grew warmer by': wrongWith(t.rise) }).find(([, said]) => said)
  if (wrong) {
    refusal.value = new Refusal([{ field: 'typed', message: `${wrong[0]}: ${wrong[1]}.` }], 422)
    return
  }
  const body = { capacity_ah: sent(t.ah, 'Ah'), capacity_a: sent(t.amps, 'A'), dc_ohm: sentMilliohms(t.dc), ac_ohm: sentMilliohms(t.ac), rest_v: sent(t.rest, 'V'), rise_k: sent(t.rise), seen: looked.value, by: settings.value.technician } as Schemas['CellTest']
  if (!(await act(() => settled(client.POST('/api/cells/of/{name}/tests', { params: { path: { name: props.name } }, body }))))) return
  typed.value = { ah: '', amps: '', dc: '', ac: '', rest: '', rise: '' }
  looked.value = null
  await anew()
}
async function standIn() {
  if (await act(() => settled(client.POST('/api/cells/of/{name}/stand-in', { params: { path: { name: props.name } } })))) await anew()
}
async function takeBack(test: number) {
  if (!(await act(() => settled(client.POST('/api/cells/of/{name}/tests/back', { params: { path: { name: props.name } }, body: { test, reason: why.value } }))))) return
  backing.value = null
  why.value = ''
  await anew()
}
async function move() {
  const to = moving.value!
  const body = { cells: [props.name], move: { to, box: box.value, row: '', by: settings.value.technician || null, reason: why.value } }
  if (!(await act(() => settled(client.POST('/api/cells/moves', { body }))))) return
  moving.value = null
  why.value = ''
  await anew()
}
const testWords = (t: Schemas['CellTest']) =>
  [
    t.capacity_ah && `${t.capacity_ah.toFixed(2)} Ah${t.capacity_a ? ` at ${t.capacity_a} A` : ''}`,
    t.dc_ohm && `${milliohms(t.dc_ohm)} mΩ`,
    t.ac_ohm && `${milliohms(t.ac_ohm)} mΩ at 1 kHz`,
    t.rest_v !== null && t.rest_v !== undefined && `${t.rest_v.toFixed(3)} V`,
    t.rise_k !== null && t.rise_k !== undefined && `${t.rise_k} K warmer`,
    t.seen && (t.seen.map((w) => SEEN[w]).join(', ') || 'looked at: nothing found'),
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <section class="sheet">
    <p v-if="error" class="error" role="alert">{{ error instanceof Refusal ? error.message : 'The cell cannot be shown.' }}</p>
    <template v-if="whole && cell">
      <header>
        <h2>{{ cell.name }} <span v-if="cell.simulated" class="simulated">simulated</span></h2>
        <p class="grade" :class="{ never: cell.grade === 'not_for_packs' }">{{ grades.find((g) => g.key === cell!.grade)?.name }}</p>
        <p v-for="reason in whole.because" :key="reason">{{ reason.charAt(0).toUpperCase() + reason.slice(1) }}.</p>
        <p class="muted">{{ cell.type }}{{ whole.type ? `, ${whole.type.rated_ah} Ah rated` : '' }} · {{ cell.origin }}{{ whole.took.donor ? `, from ${whole.took.donor}` : '' }}<template v-if="whole.took.donor_job"> (<RouterLink :to="`/jobs/${whole.took.donor_job}`">job {{ whole.took.donor_job }}</RouterLink>, group {{ whole.took.donor_group }})</template></p>
        <p>{{ cell.where.charAt(0).toUpperCase() + cell.where.slice(1) }}{{ cell.box ? `, box ${cell.box}` : '' }}{{ cell.row ? `, row ${cell.row}` : '' }}<template v-if="cell.job"> · <RouterLink :to="stagePath(cell.job, 'plan')">to the job</RouterLink></template></p>
        <p v-if="cell.loss_month !== null && !whole.loss_counts" class="muted">Loses about {{ percent(Math.max(cell.loss_month, 0)) }} a month at rest.</p>
      </header>
      <form v-if="cell.standing !== 'scrap'" class="test" @submit.prevent="keep">
        <NumberField v-model="typed.ah" label="Capacity" unit="Ah" />
        <NumberField v-model="typed.amps" label="at" unit="A" />
        <NumberField v-model="typed.dc" label="DC" unit="mΩ" />
        <NumberField v-model="typed.ac" label="AC" unit="mΩ" />
        <NumberField v-model="typed.rest" label="Rests at" unit="V" />
        <NumberField v-model="typed.rise" label="Warmer by, K" />
        <div class="chips" role="group" aria-label="What is seen">
          <button type="button" class="chip" :aria-pressed="looked?.length === 0" @click="looked = looked?.length === 0 ? null : []">looks sound</button>
          <button v-for="w in seen" :key="w" type="button" class="chip" :aria-pressed="looked?.includes(w) ?? false" @click="tick(w)">{{ SEEN[w] }}</button>
        </div>
        <ElButton type="primary" native-type="submit" :loading="busy" :disabled="!said">Record the test</ElButton>
        <button type="button" class="linklike" :disabled="busy" @click="standIn">Stand-in tester, simulated</button>
      </form>
      <ul v-if="whole.tests.length">
        <li v-for="t in [...whole.tests].reverse()" :key="t.id">
          <component :is="t.back ? 's' : 'span'">{{ testWords(t.test) }}</component>
          <span class="muted"> {{ day(t.test.tested_at ?? t.at) }}{{ t.test.by ? `, ${t.test.by}` : '' }}{{ t.back ? ` · ${t.back}` : '' }}</span>
          <button v-if="!t.back && backing !== t.id" type="button" class="linklike" @click="backing = t.id">was wrong</button>
          <form v-if="backing === t.id" class="line" @submit.prevent="takeBack(t.id)"><ElInput v-model="why" maxlength="400" aria-label="Why it was wrong" placeholder="another cell was in the bay" /><ElButton native-type="submit" :loading="busy">Take it back</ElButton></form>
        </li>
      </ul>
      <ul v-if="whole.places.length" class="places"><li v-for="(p, i) in [...whole.places].reverse()" :key="i">{{ p.says }} <span class="muted">{{ day(p.at) }}{{ p.by ? `, ${p.by}` : '' }}{{ p.reason ? ` · ${p.reason}` : '' }}</span></li></ul>
      <div v-if="cell.standing !== 'scrap' && !moving" class="line">
        <ElButton @click="moving = 'drawer'">{{ cell.standing === 'drawer' ? 'To another box' : 'Back to the drawer' }}</ElButton>
        <ElButton @click="moving = 'scrap'">Scrap it</ElButton>
      </div>
      <form v-if="moving" class="move" @submit.prevent="move">
        <TextField v-if="moving === 'drawer'" v-model="box" label="Box" maxlength="30" />
        <TextField v-model="why" label="Why" :error="refusal?.on('reason')" maxlength="400" />
        <p v-if="moving === 'scrap'" class="muted">Its ends taped, into cell waste. Nothing brings it back.</p>
        <div class="line"><ElButton type="primary" native-type="submit" :loading="busy">{{ moving === 'scrap' ? 'Scrap it for good' : 'Move it there' }}</ElButton><ElButton @click="moving = null">Cancel</ElButton></div>
      </form>
      <p v-if="refusal && !refusal.on('reason')" class="error" role="alert">{{ refusal.message }}</p>
    </template>
  </section>
</template>

<style scoped>
.sheet,
header,
.move {
  display: grid;
  gap: 8px;
}

.sheet {
  gap: 14px;
}

.grade {
  font-size: 19px;
  font-weight: 650;
}

.simulated {
  border: 1px solid var(--copper);
  color: var(--copper);
  font-size: 14px;
  padding: 1px 6px;
}

.never {
  color: var(--hazard);
}

.test {
  display: grid;
  gap: 8px 10px;
  grid-template-columns: repeat(3, minmax(0, 1fr));
}

.test > .linklike {
  justify-self: start;
  margin: 0;
}

.test > .chips,
.test > button {
  grid-column: 1 / -1;
}

.chips,
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

ul {
  border-top: 1px solid var(--rule);
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  border-bottom: 1px solid var(--rule-soft);
  padding: 6px 0;
}
</style>
