<script setup lang="ts">
import { computed } from 'vue'
import { type LiveInstrument, shown, stateWords } from '@/composables/useLive'

/** One instrument: what it is and how it does on the left, its live value on the right. */
const props = defineProps<{ instrument: LiveInstrument; checked?: string }>()

const accuracy = computed(() => {
  const a = props.instrument.accuracy
  return a && props.instrument.kind === 'meter' ? `±(${a.percent} % + ${a.digits} digits), one digit ${a.resolution_v} V` : ''
})
const bad = computed(() => props.instrument.connected && !['live', 'slow', 'connecting'].includes(props.instrument.state))
</script>

<template>
  <li class="row" :class="{ off: !instrument.connected, bad }">
    <div class="what">
      <strong>{{ instrument.name }}</strong>
      &ensp;<span class="muted mono address">{{ instrument.address }}</span>
      <p class="muted">{{ [accuracy, checked].filter(Boolean).join(' · ') }}</p>
      <p :class="bad ? 'error' : 'muted'">{{ instrument.connected ? instrument.state === 'live' ? instrument.says : `${stateWords[instrument.state]}: ${instrument.says}` : instrument.says }}</p>
    </div>
    <output class="mono value" :aria-label="`${instrument.name} shows`">{{ instrument.connected ? shown(instrument) : '' }}</output>
    <slot />
  </li>
</template>

<style scoped>
.row {
  align-items: center;
  border-bottom: 1px solid var(--rule);
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  padding: 9px 0;
}

.what {
  flex: 1 1 240px;
}

p {
  font-size: 14px;
}

.value {
  font-size: 24px;
  margin-left: auto;
  text-align: right;
  white-space: pre;
}

.address {
  font-size: 14px;
}

.off {
  color: var(--muted);
}
</style>
