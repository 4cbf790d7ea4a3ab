<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** What packs of a model had: a bar for each cause, as long as it was often; counted here solid, by other shops hatched, as told open. */
const props = defineProps<{ bars: Schemas['FaultBar'][]; simulated: boolean }>()
const most = computed(() => Math.max(1, ...props.bars.map((b) => b.here + b.elsewhere + b.on_sheet)))
const share = (n: number) => `${((n / most.value) * 100).toFixed(1)}%`
const REPAIRS = (name: string) => name.replaceAll('_', ' ')
const counts = (b: Schemas['FaultBar']) => [b.here && `${b.here} here`, b.elsewhere && `${b.elsewhere} in other shops`, b.on_sheet && `${b.on_sheet} as told`].filter(Boolean).join(', ')
const cures = (b: Schemas['FaultBar']) => Object.entries(b.cures).map(([name, times]) => `${REPAIRS(name)} ${times} ×`).join(', ')
</script>

<template>
  <ul class="bars">
    <li v-for="b in bars" :key="b.cause">
      <div class="head"><strong>{{ b.says.charAt(0).toUpperCase() + b.says.slice(1) }}</strong><span class="mono">{{ b.here + b.elsewhere + b.on_sheet }}</span></div>
      <div class="bar" role="img" :aria-label="counts(b)"><span class="here" :style="{ width: share(b.here) }"></span><span class="away" :style="{ width: share(b.elsewhere) }"></span><span class="told" :style="{ width: share(b.on_sheet) }"></span></div>
      <p class="muted">{{ counts(b) }}<template v-if="b.back">; {{ b.back }} came back</template><template v-if="cures(b)">. Cured: {{ cures(b) }}</template><template v-if="b.minutes">, {{ Math.round(b.minutes) }} min</template>.</p>
    </li>
  </ul>
  <p v-if="simulated && bars.some((b) => b.here)" class="muted">The packs counted here were simulated; the first real one replaces them.</p>
</template>

<style scoped>
.bars {
  display: grid;
  gap: 12px;
  list-style: none;
  margin: 0;
  padding: 0;
}

.head {
  align-items: baseline;
  display: flex;
  gap: 10px;
  justify-content: space-between;
}

.bar {
  background: var(--rule-soft, var(--rule));
  display: flex;
  height: 12px;
}

.here {
  background: var(--ink);
}

.away {
  background: repeating-linear-gradient(-45deg, var(--ink) 0 3px, transparent 3px 6px);
}

.told {
  border: 1px solid var(--ink);
}

p {
  font-size: 14px;
}
</style>
