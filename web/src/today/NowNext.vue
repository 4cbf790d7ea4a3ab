<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { useTermsQuery } from '@/api/queries'
import type { Schemas } from '@/api/client'
import { duration, jobNumber } from '@/composables/format'
import { useNow } from '@/composables/useNow'
import { useShortcuts } from '@/composables/useShortcuts'
import { stagePath } from '@/router'
import type { DayNow } from './useDay'
import { shortly } from './when'

/** The one thing that the hands do now, with its job, its place and its button; and the three that come next. */
const props = defineProps<{ day: DayNow }>()
const router = useRouter()
const now = useNow()
const { data: terms } = useTermsQuery()
const stageName = (key: string) => terms.value?.stages.find((s) => s.key === key)?.name ?? key
const act = computed(() => props.day.plan.now)
const place = (a: Schemas['Act']) => [stageName(a.stage), a.channel].filter(Boolean).join(', ')
const minutes = (m: number) => (m < 90 ? `about ${Math.max(1, Math.round(m))} min` : `about ${duration(m * 60)}`)
const open = (a: Schemas['Act']) => router.push(stagePath(a.job_id, a.stage))
useShortcuts(() => (act.value ? [{ key: 'g', does: 'go to what is to be done now', run: () => void open(act.value!) }] : []))
</script>

<template>
  <section class="now" aria-label="Now">
    <h2>Now</h2>
    <div v-if="act" class="one">
      <div class="what">
        <strong>{{ act.says }}</strong>
        <span>{{ act.pack_name }} <span class="muted">{{ jobNumber(act.job_id) }} · {{ place(act) }} · {{ minutes(act.minutes) }}<template v-if="act.due">, due for {{ duration(Math.max(0, now - new Date(act.due).getTime()) / 1000) }}</template></span></span>
        <span v-if="act.late" class="late">Its promise is not kept by this plan.</span>
      </div>
      <ElButton type="primary" size="large" @click="open(act)"><kbd>g</kbd>&nbsp;Go to it</ElButton>
    </div>
    <p v-else-if="day.presence.away" class="idle">Nobody is here until {{ shortly(day.presence.away, now) }}.</p>
    <p v-else-if="day.plan.free_from" class="idle">Nothing wants a hand until {{ shortly(day.plan.free_from, now) }}.</p>
    <p v-else class="idle">{{ day.pending ? 'Looking through the jobs.' : day.plan.stuck.length ? 'Nothing can be gone on with: see what stands still.' : 'Nothing wants a hand. Take in a pack to begin.' }}</p>
  </section>
  <section v-if="day.plan.next.length" class="next" aria-label="Next">
    <h2>Next</h2>
    <ol>
      <li v-for="a in day.plan.next" :key="a.task">
        <RouterLink :to="stagePath(a.job_id, a.stage)">
          <span class="mono at">{{ shortly(a.at, now) }}</span>
          <strong>{{ a.says }}</strong>
          <span class="who">{{ a.pack_name }} <span class="muted">{{ place(a) }}<template v-if="a.late">, promise not kept</template></span></span>
        </RouterLink>
      </li>
    </ol>
  </section>
</template>

<style scoped>
section {
  border-top: 1px solid var(--ink);
  display: grid;
  gap: 0 20px;
  grid-template-columns: 92px minmax(0, 1fr);
  padding: 6px 0;
}

h2 {
  color: var(--copper);
  font-size: 16px;
  padding-top: 11px;
}

.next {
  border-top-color: var(--rule);
}

.one {
  align-items: center;
  background: var(--copper-tint);
  border-left: 6px solid var(--copper);
  display: flex;
  flex-wrap: wrap;
  gap: 10px 20px;
  justify-content: space-between;
  padding: 12px 16px;
}

.what {
  display: grid;
  gap: 2px;
  min-width: 0;
}

.what strong {
  font-size: 27px;
  line-height: 1.15;
}

.late {
  color: var(--hazard);
  font-weight: 650;
}

.idle {
  font-size: 20px;
  padding: 9px 0;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

.next a {
  align-items: baseline;
  color: var(--ink);
  display: grid;
  gap: 2px 14px;
  grid-template-columns: 112px minmax(0, 1.1fr) minmax(0, 1fr);
  min-height: 44px;
  padding: 10px 8px;
  text-decoration: none;
}

.next a:hover {
  background: var(--petrol-tint);
}

.next strong {
  color: var(--petrol);
}

.at {
  color: var(--muted);
}

.one kbd {
  background: none;
  border-color: currentcolor;
  color: inherit;
}

@media (max-width: 600px) {
  section {
    grid-template-columns: minmax(0, 1fr);
  }

  .next a {
    grid-template-columns: minmax(0, 1fr);
  }

  .one .el-button {
    width: 100%;
  }
}
</style>
