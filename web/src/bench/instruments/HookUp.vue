<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { parseNumber } from '@/composables/parseVolts'
import { useAct } from '@/composables/useAct'
import FieldRow from '@/bench/FieldRow.vue'

/** What drives the virtual pack: choose, set, switch on. The gates of a real pack hold here too. */
const props = defineProps<{ jobId: number; virtual: Schemas['VirtualNow'] }>()

type Kind = NonNullable<Schemas['Hookup']['kind']>
const KINDS: { key: Kind; name: string; fields: string[] }[] = [
  { key: 'cell_charger', name: 'Single-cell charger', fields: ['group', 'volts', 'amps', 'cutoff_a'] },
  { key: 'harness_charger', name: 'Harness charger', fields: ['volts', 'amps', 'cutoff_a'] },
  { key: 'supply', name: 'Bench supply', fields: ['volts', 'amps'] },
  { key: 'load', name: 'Electronic load', fields: ['amps'] },
  { key: 'capacity_tester', name: 'Capacity tester', fields: ['amps', 'low_v'] },
]
const LABELS: Record<string, string> = { group: 'on group', volts: 'to, V', amps: 'at, A', cutoff_a: 'ends at, A', low_v: 'down to, V' }

const { act, busy, refusal } = useAct()
const kind = shallowRef<Kind>(props.virtual.hooked ?? 'cell_charger')
const shape = computed(() => KINDS.find((k) => k.key === kind.value)!)
const form = ref<Record<string, string>>({})
const set = computed(() => props.virtual.sources[kind.value]!)
const running = computed(() => props.virtual.hooked === kind.value && set.value.on)
watch(kind, fill, { immediate: true })

function fill() {
  form.value = Object.fromEntries(shape.value.fields.map((f) => [f, String((set.value as unknown as Record<string, number>)[f])]))
}

async function turn(on: boolean) {
  const typed = Object.fromEntries(shape.value.fields.map((f) => [f, parseNumber(form.value[f] ?? '') ?? form.value[f]]))
  await act(() =>
    settled(client.POST('/api/jobs/{job_id}/virtual/source', { params: { path: { job_id: props.jobId } }, body: { kind: kind.value, source: { ...typed, on } as unknown as Schemas['Source'] } })),
  )
}

const doing = computed(() => {
  if (!props.virtual.hooked) return 'Nothing is on the pack: it rests.'
  const words = { off: 'is hooked up and off', held: 'is on', done: 'has stopped by itself', cut: 'was cut off by the board' }
  return `${KINDS.find((k) => k.key === props.virtual.hooked)!.name} ${words[props.virtual.sources[props.virtual.hooked]!.doing ?? 'off']}.`
})
</script>

<template>
  <form class="hook" @submit.prevent="turn(true)">
    <ElRadioGroup v-model="kind" aria-label="What is hooked up" class="kinds">
      <ElRadioButton v-for="k in KINDS" :key="k.key" :value="k.key">{{ k.name }}</ElRadioButton>
    </ElRadioGroup>
    <div class="fields">
      <FieldRow v-for="f in shape.fields" :key="f" :label="LABELS[f]!" :error="refusal?.on(`source.${f}`)">
        <template #default="{ id }"><ElInput :id="id" v-model="form[f]" inputmode="decimal" /></template>
      </FieldRow>
      <ElButton type="primary" native-type="submit" :loading="busy">{{ running ? 'Set' : 'Hook up, switch on' }}</ElButton>
      <ElButton :disabled="!running" :loading="busy" @click="turn(false)">Off</ElButton>
    </div>
    <p class="muted">{{ doing }}</p>
    <p v-if="refusal && !refusal.lines.some((l) => l.field.startsWith('source.'))" class="error" role="alert">{{ refusal.message }}</p>
  </form>
</template>

<style scoped>
.hook {
  display: grid;
  gap: 10px;
}

.kinds {
  flex-wrap: wrap;
  row-gap: 6px;
}

.kinds :deep(.el-radio-button__inner) {
  padding: 13px 9px;
}

.fields {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
}

.fields :deep(.el-input) {
  width: 92px;
}
</style>
