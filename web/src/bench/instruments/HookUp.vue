<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import { sent, type Unit } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'

/** What drives the virtual pack: choose, set, switch on. The gates of a real pack hold here too. */
const props = defineProps<{ jobId: number; virtual: Schemas['VirtualNow'] }>()

type Kind = NonNullable<Schemas['Hookup']['kind']>
const { data: terms } = useTermsQuery()
const kinds = computed(() => (terms.value?.instrument_kinds ?? []).filter((k) => k.fields?.length))
const UNITS: Record<string, Unit> = { volts: 'V', amps: 'A', cutoff_a: 'A', low_v: 'V' }
const LABELS: Record<string, string> = { group: 'on group', volts: 'to, V', amps: 'at, A', cutoff_a: 'ends at, A', low_v: 'down to, V' }

const { act, busy, refusal } = useAct()
const kind = shallowRef<Kind>(props.virtual.hooked ?? 'cell_charger')
const fields = computed(() => kinds.value.find((k) => k.key === kind.value)?.fields ?? [])
const form = ref<Record<string, string>>({})
const set = computed(() => props.virtual.sources[kind.value]!)
const running = computed(() => props.virtual.hooked === kind.value && set.value.on)
watch([kind, fields], fill, { immediate: true })

function fill() {
  form.value = Object.fromEntries(fields.value.map((f) => [f, String((set.value as unknown as Record<string, number>)[f])]))
}

async function turn(on: boolean) {
  const typed = Object.fromEntries(fields.value.map((f) => [f, sent(form.value[f], UNITS[f])]))
  await act(() =>
    settled(client.POST('/api/jobs/{job_id}/virtual/source', { params: { path: { job_id: props.jobId } }, body: { kind: kind.value, source: { ...typed, on } as unknown as Schemas['Source'] } })),
  )
}

const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)
const nameOf = (key: Kind) => capital(kinds.value.find((k) => k.key === key)?.name ?? key)
const doing = computed(() => {
  if (!props.virtual.hooked) return 'Nothing is on the pack: it rests.'
  const words = { off: 'is hooked up and off', held: 'is on', done: 'has stopped by itself', cut: 'was cut off by the board' }
  return `${nameOf(props.virtual.hooked)} ${words[props.virtual.sources[props.virtual.hooked]!.doing ?? 'off']}.`
})
</script>

<template>
  <form class="hook" @submit.prevent="turn(true)">
    <ElRadioGroup v-model="kind" aria-label="What is hooked up" class="kinds">
      <ElRadioButton v-for="k in kinds" :key="k.key" :value="k.key">{{ capital(k.name) }}</ElRadioButton>
    </ElRadioGroup>
    <div class="fields">
      <NumberField v-for="f in fields" :key="f" v-model="form[f]" bare :unit="UNITS[f]" :label="LABELS[f] ?? f" :error="refusal?.on(`source.${f}`)" />
      <ElButton type="primary" native-type="submit" :loading="busy">{{ running ? 'Change the setting' : 'Hook up, switch on' }}</ElButton>
      <ElButton :disabled="!running" :loading="busy" @click="turn(false)">Switch it off</ElButton>
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
