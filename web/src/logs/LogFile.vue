<script setup lang="ts">
import { computed, defineAsyncComponent, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { duration } from '@/composables/format'
import FileButton from '@/forms/FileButton.vue'

/** A log of a charger, tester or supply, looked at before anything of it is kept: which column is what is shown, and can be set right. */
const props = defineProps<{ label: string; ratedAh?: number; busy?: boolean; quiet?: boolean }>()
const emit = defineEmits<{ seen: [{ look: Schemas['LogLook']; file: File; columns: string } | null] }>()
const TaperChart = defineAsyncComponent(() => import('@/figures/TaperChart.vue'))
// What the program takes.
const MOST_BYTES = 96 * 1024 * 1024
const NEEDED = ['time_s', 'volts', 'amps']
const { act, busy: looking, refusal } = useAct()
const file = shallowRef<File | null>(null)
const megabytes = computed(() => ((file.value?.size ?? 0) / 1e6).toFixed(1))
// Measured here: four megabytes a second, counted and drawn.
const LARGE = 8_000_000
const seconds = computed(() => Math.ceil((file.value?.size ?? 0) / 4e6))
const look = shallowRef<Schemas['LogLook'] | null>(null)
const said = shallowRef<string | null>(null)
const told = (columns: Record<string, number>) => Object.entries(columns).map(([role, at]) => `${role}:${at}`).join(',')

async function view(columns?: Record<string, number>) {
  const chosen = file.value!
  const query = { columns: columns ? told(columns) : undefined, remember: columns !== undefined, rated_ah: props.ratedAh }
  look.value = await act(() => settled(client.POST('/api/logs/preview', { params: { query }, body: chosen as unknown as string, bodySerializer: (body) => body as unknown as string, headers: { 'Content-Type': 'text/csv' } })))
  emit('seen', look.value && !look.value.problem ? { look: look.value, file: chosen, columns: told(look.value.columns) } : null)
}
async function choose(of: File) {
  said.value = look.value = null
  emit('seen', null)
  if (of.size > MOST_BYTES) {
    said.value = `${of.name} has ${Math.round(of.size / 1e6)} MB; ${Math.round(MOST_BYTES / 1e6)} are taken. Export it at a slower rate.`
    return
  }
  file.value = of
  await view()
}
watch(() => props.ratedAh, () => file.value && void view(look.value?.columns))
const meaning = (column: number) => Object.entries(look.value?.columns ?? {}).find(([, at]) => at === column)?.[0] ?? ''
function mean(column: number, role: string) {
  const now = Object.fromEntries(Object.entries(look.value!.columns).filter(([key, at]) => at !== column && key !== role))
  void view(role ? { ...now, [role]: column } : now)
}
const whole = computed(() => NEEDED.every((role) => role in (look.value?.columns ?? {})))
const points = computed(() => (look.value?.drawn ? look.value.drawn.time_s.map((seconds, k) => ({ seconds, volts: look.value!.drawn!.volts[k]!, amps: look.value!.drawn!.amps[k]!, celsius: look.value!.drawn!.celsius[k] ?? null })) : []))
const span = (values: number[], unit: string) => `${values[0]!.toFixed(2)} to ${values[1]!.toFixed(2)} ${unit}`.replaceAll('-', '−')
const named = (role: string) => {
  const at = look.value!.columns[role as 'volts']
  return at === undefined ? '' : `${look.value!.roles![role as 'volts']}: ${look.value!.header[at] || `column ${at + 1}`}`
}
</script>

<template>
  <div class="log-file">
    <FileButton :label="label" :quiet="quiet" accept=".csv,.txt,.tsv,.log,text/csv,text/plain" :busy="busy || looking" @chosen="choose" />
    <p v-if="looking && file" class="muted" role="status">Reading {{ megabytes }} MB{{ file.size > LARGE ? ': some ' + seconds + ' s' : '' }}</p>
    <p v-if="said ?? refusal" class="error" role="alert">{{ said ?? refusal?.message }}</p>
    <template v-if="look">
      <p role="status">{{ look.rows }} rows, decimal {{ look.decimal_comma ? 'comma' : 'point' }}<template v-if="look.seconds != null">: {{ duration(look.seconds) }}, {{ span(look.volts!, 'V') }}, {{ span(look.amps!, 'A') }}</template>{{ look.remembered ? '; columns as chosen last time' : '' }}.</p>
      <p v-if="look.problem" class="error" role="alert">{{ look.problem }}</p>
      <p v-for="note in look.notes" :key="note" class="wants">{{ note }}</p>
      <details :open="!whole || !!look.problem">
        <summary>{{ whole ? ['time_s', 'volts', 'amps', 'celsius'].map(named).filter(Boolean).join(' · ') : 'Say which column is what' }}</summary>
        <div v-for="(name, i) in look.header" :key="i" class="column">
          <label :for="`log-${i}`"><strong>{{ name || `column ${i + 1}` }}</strong> <span class="muted mono">{{ look.first.map((row) => row[i]).filter(Boolean).slice(0, 2).join(', ') }}</span></label>
          <ElSelect :id="`log-${i}`" :model-value="meaning(i)" placeholder="not used" :aria-label="`${name || `column ${i + 1}`} is`" @update:model-value="mean(i, $event)"><ElOption value="" label="not used" /><ElOption v-for="(words, role) in look.roles" :key="role" :value="role" :label="words" /></ElSelect>
        </div>
      </details>
      <TaperChart v-if="points.length > 1" :points="points" :low-s="0" :high-s="0" low />
    </template>
  </div>
</template>

<style scoped>
.log-file {
  display: grid;
  gap: 8px;
  justify-items: start;
}

.log-file > :deep(.chart) {
  justify-self: stretch;
}

summary {
  color: var(--petrol);
  cursor: pointer;
  font-weight: 650;
  padding: 8px 0;
}

.column {
  align-items: center;
  display: grid;
  gap: 4px 14px;
  grid-template-columns: minmax(0, 1fr) 190px;
  padding: 3px 0;
}
</style>
