<script setup lang="ts">
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import { clock, duration } from '@/composables/format'
import { useNow } from '@/composables/useNow'
import { stagePath } from '@/router'
import { shortly } from './when'

/** What runs by itself, and when it wants a hand. */
defineProps<{ runs: Schemas['Running'][] }>()
const now = useNow()
const ms = (iso: string) => new Date(iso).getTime()
const groups = (r: Schemas['Running']) => (r.groups.length ? `group ${r.groups.join(', ')} ` : '')
</script>

<template>
  <section aria-label="By itself">
    <h2>By itself</h2>
    <p v-if="!runs.length" class="muted">Nothing is charging, resting or setting. A group put on a charger in Level shows here with its time left.</p>
    <ol>
      <li v-for="r in runs" :key="`${r.job_id}${r.run}${r.groups}`" :class="{ minded: r.minded !== 'none' }">
        <RouterLink :to="stagePath(r.job_id, r.stage)"><strong>{{ r.pack_name }}</strong></RouterLink>
        <span>{{ groups(r) }}{{ r.says }}<template v-if="r.channel">, {{ r.channel }}</template></span>
        <span class="mono">{{ ms(r.high) - ms(r.low) > 120_000 && ms(r.high) - now < 20 * 3600_000 ? `${clock(r.low)} – ${clock(r.high)}` : shortly(r.likely, now) }}</span>
        <span class="muted">{{ ms(r.likely) > now ? `in ${duration((ms(r.likely) - now) / 1000)}` : 'now' }}<template v-if="r.then">: {{ r.then.charAt(0).toLowerCase() + r.then.slice(1) }}</template><template v-if="r.look"><br />look again at {{ clock(r.look) }}</template></span>
        <span v-if="r.minded !== 'none'" class="mind">{{ r.minded === 'whole' ? 'Stay with it' : 'Be there when it ends' }}</span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
}

ol {
  display: grid;
  gap: 12px;
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  border-left: 3px solid var(--petrol);
  display: grid;
  padding-left: 12px;
}

.minded {
  border-left: 3px double var(--copper);
}

.mind {
  color: var(--copper);
  font-weight: 650;
}
</style>
