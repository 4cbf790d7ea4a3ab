<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { queryClient, useMeterQuery, useTermsQuery } from '@/api/queries'
import { sent } from '@/forms/quantity'
import { dark, useSettings } from '@/composables/useSettings'
import HandsTaught from './HandsTaught.vue'
import OpenFrame from './OpenFrame.vue'
import ShopCard from './ShopCard.vue'
import TextField from '@/forms/TextField.vue'

const settings = useSettings()
const { data: meter } = useMeterQuery()
const { data: terms } = useTermsQuery()
type Row = Record<'to_v' | 'percent' | 'digits' | 'resolution_v', string>
const text = (r: Schemas['MeterRange']): Row => ({ to_v: String(r.to_v), percent: String(r.percent), digits: String(r.digits), resolution_v: String(r.resolution_v) })
const rows = ref<Row[]>([])
// A meter of which only one range was ever told has that one.
watch(meter, (m) => {
  if (m) rows.value = m.ranges?.length ? m.ranges.map(text) : [text({ to_v: 1000, percent: m.percent, digits: m.digits, resolution_v: m.resolution_v })]
}, { immediate: true })
const choose = (key: string) => (rows.value = (terms.value?.meters.find((m) => m.key === key)?.ranges ?? []).map(text))
const another = () => rows.value.push({ to_v: '', percent: rows.value.at(-1)?.percent ?? '', digits: rows.value.at(-1)?.digits ?? '', resolution_v: '' })
const wrongRow = computed(() => refusal.value?.lines.find((l) => l.field.startsWith('ranges'))?.message ?? null)

const LABELS = { to_v: 'to, V', percent: 'percent', digits: 'digits', resolution_v: 'one digit, V' }
const refusal = shallowRef<Refusal | null>(null)
const kept = shallowRef(false)
const number = (text: string, unit?: 'V' | '%') => sent(text, unit) as number
async function keep() {
  refusal.value = null
  kept.value = false
  try {
    const ranges = rows.value.map((r) => ({ to_v: number(r.to_v, 'V'), percent: number(r.percent, '%'), digits: number(r.digits), resolution_v: number(r.resolution_v, 'V') }))
    // The range that a group is read on stands for the meter where one figure has to.
    const own = ranges.find((r) => r.to_v >= 4.5) ?? ranges.at(-1)!
    const body = { percent: own.percent, digits: own.digits, resolution_v: own.resolution_v, ranges }
    queryClient.setQueryData(['meter'], await settled(client.POST('/api/meter', { body })))
    kept.value = true
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    refusal.value = error
  }
}
const sources = computed(() => Object.values(terms.value?.curve_sources ?? {}))
</script>

<template>
  <OpenFrame title="Bench settings" under="This bench, this browser">
    <main class="settings">
      <h1>Bench settings</h1>
      <ShopCard />
      <form class="part" @submit.prevent="keep">
        <h2>The meter</h2>
        <p class="muted">As its maker states it. Every reading's uncertainty, and so every limit, comes from this; sets already begun keep their own.</p>
        <div class="chips" role="group" aria-label="A common class of meter">
          <button v-for="m in terms?.meters ?? []" :key="m.key" type="button" class="chip" @click="choose(m.key)">{{ m.name }}</button>
        </div>
        <table class="ranges">
          <thead><tr><th>range to, V</th><th>± percent of reading</th><th>± digits</th><th>one digit is, V</th><th><span class="visually-hidden">remove</span></th></tr></thead>
          <tbody>
            <tr v-for="(r, i) in rows" :key="i">
              <td v-for="field in (['to_v', 'percent', 'digits', 'resolution_v'] as const)" :key="field"><ElInput v-model="r[field]" inputmode="decimal" :aria-label="`range ${i + 1}, ${LABELS[field]}`" /></td>
              <td><button v-if="rows.length > 1" type="button" class="linklike" :aria-label="`leave range ${i + 1} out`" @click="rows.splice(i, 1)">remove</button></td>
            </tr>
          </tbody>
        </table>
        <button type="button" class="linklike first" @click="another">add a range</button>
        <p v-if="refusal" class="error" role="alert">{{ wrongRow ?? refusal.message }}</p>
        <div class="keep"><ElButton type="primary" native-type="submit">Save the meter</ElButton><span v-if="kept" role="status">Saved for sets begun from now on.</span></div>
      </form>
      <HandsTaught />
      <section class="part">
        <h2>Display</h2>
        <label class="switch"><ElSwitch v-model="dark" aria-label="Dark scheme" /> Dark scheme for late work (else as the system)</label>
        <label class="switch"><ElSwitch v-model="settings.fahrenheit" aria-label="Temperatures in °F" /> Temperatures in °F</label>
        <TextField v-model="settings.technician" label="Who works here" maxlength="60" />
      </section>
    </main>
    <aside class="side">
      <h2>Where the curves come from</h2>
      <ul><li v-for="s in sources" :key="s">{{ s }}</li></ul>
      <p class="muted">Used where a rest voltage is turned into charge, and in every forecast.</p>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.settings {
  position: relative;
  display: grid;
  gap: 26px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 28px;
}

.part {
  display: grid;
  gap: 10px;
  max-width: 640px;
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.ranges .linklike {
  white-space: nowrap;
}

.ranges td {
  padding: 4px 6px 4px 0;
}

.first {
  justify-self: start;
  margin: 0;
}

.keep {
  align-items: center;
  display: flex;
  gap: 14px;
}

.switch {
  align-items: center;
  display: flex;
  gap: 12px;
  min-height: 44px;
}

.side {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 10px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 20px;
}

ul {
  margin: 0;
  padding-left: 18px;
}
</style>
