<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient, usePolicyQuery } from '@/api/queries'
import { clock, day } from '@/composables/format'
import { following } from '@/forms/following'
import { quantity, sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useSettings } from '@/composables/useSettings'
import LimitRail from '@/figures/LimitRail.vue'
import OpenFrame from './OpenFrame.vue'
import TextField from '@/forms/TextField.vue'

/** The shop's thresholds: each with its unit, its reason, its default and its hard limits; who set them, when and why. */
type Key = keyof Schemas['Policy']

const settings = useSettings()
const { data } = usePolicyQuery()
const typed = ref<Record<string, string>>({})
const by = ref(settings.value.technician)
const reason = ref('')
const { act, busy, refusal } = useAct()
const kept = shallowRef(false)

// The last change that this form knows of, and what it showed then: another window's is not written over what is typed, nor back.
const seen = shallowRef(0)
let shown: Record<string, string> = {}
const written = (now: Schemas['ShopPolicy']) => Object.fromEntries(now.choices.map((c) => [c.key, String(now.policy[c.key as Key])]))
function follow(now: Schemas['ShopPolicy'], from: Record<string, string>) {
  typed.value = following(written(now), from, typed.value)
  shown = written(now)
  seen.value = now.history[0]?.id ?? 0
}
watch(data, (now) => now && follow(now, shown), { immediate: true })

const topics = computed(() => [...new Set((data.value?.choices ?? []).map((c) => c.topic))])
const of = (topic: string) => (data.value?.choices ?? []).filter((c) => c.topic === topic)
const value = (key: string) => quantity(typed.value[key] ?? '')
const changed = computed(() => (data.value?.choices ?? []).filter((c) => typed.value[c.key] !== undefined && value(c.key) !== data.value!.policy[c.key as Key]))
const wrong = (key: string) => refusal.value?.on(`policy.${key}`)
const limits = (c: Schemas['Choice']) => `${c.low} to ${c.high}${c.unit === 'share' ? '' : ` ${c.unit}`}; usually ${c.default}`

/** What an earlier setting changed against the one before it. */
const history = computed(() =>
  (data.value?.history ?? []).map((set, i, all) => {
    const before = all[i + 1]?.policy
    const moved = data.value!.choices.filter((c) => set.policy[c.key as Key] !== (before ? before[c.key as Key] : c.default))
    return { ...set, moved: moved.map((c) => `${c.title.toLowerCase()} ${before ? before[c.key as Key] : c.default} → ${set.policy[c.key as Key]}`) }
  }),
)

async function keep() {
  kept.value = false
  const sending = { ...typed.value }
  const policy = Object.fromEntries(Object.entries(sending).map(([key, text]) => [key, sent(text)])) as Schemas['Policy']
  const why = reason.value
  const now = await act(() => settled(client.POST('/api/policy', { params: { query: { seen: seen.value } }, body: { policy, by: by.value, reason: why } })))
  if (!now) {
    // What another window changed is shown before the same is sent again.
    if (refusal.value?.on('stale')) await queryClient.refetchQueries({ queryKey: ['policy'] })
    return
  }
  follow(now, sending)
  queryClient.setQueryData(['policy'], now)
  if (reason.value === why) reason.value = ''
  kept.value = true
}
</script>

<template>
  <OpenFrame title="Policy" under="What this shop has chosen">
    <main class="policy">
      <h1>Shop limits</h1>
      <p class="muted lead">These are choices, not physics. Each can be changed between its hard limits; jobs signed before keep the limits of their day. Data sheets and local rules come first.</p>
      <section v-for="topic in topics" :key="topic">
        <h2>{{ topic }}</h2>
        <div v-for="c in of(topic)" :key="c.key" class="choice" :class="{ moved: changed.includes(c) }">
          <label :for="`choice-${c.key}`"><strong>{{ c.title }}<template v-if="changed.includes(c)">, changed from {{ data!.policy[c.key as Key] }}</template></strong><span class="muted">{{ c.reason }}</span></label>
          <LimitRail :low="c.low" :high="c.high" :usual="c.default" :value="value(c.key)" />
          <div class="entry">
            <ElInput :id="`choice-${c.key}`" v-model="typed[c.key]" inputmode="decimal" :aria-describedby="`limits-${c.key}`"><template v-if="c.unit !== 'share'" #suffix>{{ c.unit }}</template></ElInput>
            <span :id="`limits-${c.key}`" class="muted limits">{{ limits(c) }}</span>
            <span v-if="wrong(c.key)" class="error" role="alert">{{ wrong(c.key) }}</span>
          </div>
        </div>
      </section>
    </main>
    <aside class="side">
      <form @submit.prevent="keep">
        <h2>{{ changed.length ? `${changed.length} changed` : 'No changes' }}</h2>
        <p v-for="c in changed" :key="c.key" class="mono move">{{ c.title }}: {{ data!.policy[c.key as Key] }} → {{ typed[c.key] }}</p>
        <TextField v-model="by" label="Changed by" :error="refusal?.on('by')" maxlength="60" />
        <TextField v-model="reason" label="Why" :error="refusal?.on('reason')" maxlength="400" placeholder="cells of this season run warm" />
        <ElButton type="primary" size="large" native-type="submit" :loading="busy" :disabled="!changed.length">Change the limits from now on</ElButton>
        <p v-if="refusal && !refusal.lines.some((l) => l.field.startsWith('policy.') || ['by', 'reason'].includes(l.field))" class="error" role="alert">{{ refusal.message }}</p>
        <p v-if="kept" role="status">Changed from now on.</p>
      </form>
      <section>
        <h2>History</h2>
        <p v-if="!history.length" class="muted">Nobody has changed a limit yet: all are at their usual values.</p>
        <article v-for="set in history" :key="set.id">
          <p><strong>{{ set.by }}</strong> <span class="muted">{{ day(set.at) }} {{ clock(set.at) }}</span></p>
          <p>{{ set.reason }}</p>
          <p class="muted">{{ set.moved.join('; ') || 'no changes' }}</p>
        </article>
      </section>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.policy {
  min-height: 0;
  overflow: auto;
  padding: 22px 28px 40px;
}

.lead {
  margin: 6px 0 14px;
  max-width: 640px;
}

.policy h2 {
  border-bottom: 1px solid var(--ink);
  margin-top: 18px;
  padding-bottom: 4px;
}

.choice {
  align-items: center;
  border-bottom: 1px solid var(--rule-soft);
  display: grid;
  gap: 6px 22px;
  grid-template-columns: minmax(0, 1fr) minmax(90px, 200px) 210px;
  padding: 9px 0;
}

.moved label strong {
  color: var(--copper);
}

.choice label {
  display: grid;
}

.choice label span,
.limits {
  font-size: 14px;
}

.entry {
  display: grid;
  gap: 2px;
}

.side {
  align-content: start;
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 26px;
  min-height: 0;
  overflow: auto;
  padding: 22px 20px;
}

form,
.side section {
  display: grid;
  gap: 10px;
}

.move {
  color: var(--copper);
  font-size: 14px;
}

article {
  border-top: 1px solid var(--rule-soft);
  display: grid;
  gap: 2px;
  padding-top: 8px;
}

@media (max-width: 1100px) {
  .choice {
    grid-template-columns: minmax(0, 1fr) 190px;
  }

  .rail {
    display: none;
  }
}
</style>
