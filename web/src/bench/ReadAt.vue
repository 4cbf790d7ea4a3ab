<script setup lang="ts">
import { computed, nextTick, onMounted, useTemplateRef, watch } from 'vue'
import VoltsField from './VoltsField.vue'
import { volts } from '@/composables/format'
import { useJob } from '@/composables/useJob'
import { type Probes, useMeter } from '@/composables/useMeter'
import { useSettings } from '@/composables/useSettings'
import { useShortcuts } from '@/composables/useShortcuts'
import { useVolts } from '@/composables/useVolts'
import { say, tone } from '@/composables/useVoice'
import SettlingRing from '@/figures/SettlingRing.vue'

/**
 * One reading that a step, a cell or a pin asks for: typed, or taken from the live meter. `auto`: a settled value of the meter is taken by
 * itself, as in a run of readings; else Enter or the pedal takes it.
 */
const props = defineProps<{ what: string; expected: number | null; most: number; probes: Partial<Probes> | null; auto?: boolean; busy?: boolean; label: string; signed?: boolean; keep: (volts: number) => Promise<unknown> }>()
const job = useJob()
const settings = useSettings()
const span = () => ({ low: -props.most, high: props.most })
const near = () => (props.expected === null ? span() : { low: Math.min(props.expected, 0) - 0.5, high: Math.max(props.expected, 0) + 0.5 })
const { clear, preview, questioned, take, text, wrong } = useVolts(() => props.label, near, span)
const live = useMeter(
  () => job.value.facts.id,
  () => props.probes,
  (value) => (props.auto && !props.busy && !text.value ? send(value) : null),
)
const { meter, meters, share, volts: shown } = live
const field = useTemplateRef<{ focus: (how?: { preventScroll: boolean }) => void }>('field')
const said = computed(() => wrong.value ?? questioned.value)

async function accept() {
  if (!text.value.trim()) {
    const now = live.now()
    if (now) return void (await send(now.volts))
  }
  const taken = take()
  if (taken) await send(taken.volts)
}
async function send(value: number) {
  if (!(await props.keep(value))) return null
  clear()
  tone('accepted')
  await nextTick()
  field.value?.focus()
  return true
}
// Where it stands below what explains it, the page is not moved away from that.
onMounted(() => field.value?.focus({ preventScroll: true }))
watch(() => props.what, (words) => { clear(); say(words) })
useShortcuts([{ key: 'l', alt: true, does: 'live meter: off, or the next one there is', run: live.next }])
</script>

<template>
  <form class="read" @submit.prevent="accept">
    <p class="what" aria-live="polite">{{ what }}</p>
    <div class="entry">
      <VoltsField ref="field" v-model="text" :label="label" :pedal="settings.pedal" :said="said" @accept="accept" />
      <output v-if="meter" class="mono" aria-label="live meter"><SettlingRing :share="share" />{{ shown === null ? '–' : volts(shown, 2) }} V</output>
    </div>
    <p class="under"><span v-if="expected !== null" class="muted">about <span class="mono">{{ signed && expected > 0 ? '+' : '' }}{{ volts(expected, 2) }} V</span> expected</span><span v-if="preview" class="muted">{{ preview }}</span></p>
    <p v-if="said" class="error" role="alert">{{ said }}</p>
    <p class="keys"><ElButton type="primary" native-type="submit" :loading="busy">Record the reading</ElButton><button v-if="meters.length" type="button" class="linklike" :aria-pressed="meter !== null" @click="live.next()">{{ meter ? `${meter.name} reads` : 'use a live meter' }} <kbd>Alt l</kbd></button></p>
  </form>
</template>

<style scoped>
.read,
.under {
  display: grid;
  gap: 6px;
  justify-items: start;
}

.keys {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}

.what {
  font-size: 20px;
  font-weight: 650;
}

.entry {
  align-items: center;
  background: var(--field);
  border: 1px solid var(--ink);
  display: flex;
  font-size: 48px;
  gap: 10px;
  padding: 4px 12px;
  width: 100%;
}

.entry :deep(.volts) {
  font-size: 48px;
}

.entry:focus-within {
  box-shadow: inset 0 -5px 0 var(--copper);
}

output {
  align-items: center;
  display: flex;
  font-size: 20px;
  gap: 6px;
  white-space: nowrap;
}
</style>
