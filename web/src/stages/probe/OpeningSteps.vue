<script setup lang="ts">
import { computed, ref } from 'vue'
import Caution from '@/bench/Caution.vue'
import { client, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'

/** How such a pack is opened, or closed, as its pattern has it: the next step large, ticked off by key, what can hurt at the step itself. */
const props = defineProps<{ of: 'opening' | 'closing' }>()
const emit = defineEmits<{ photo: [name: string] }>()
const job = useJob()
const { act, refusal } = useAct()
const pattern = computed(() => job.value.assessment.pattern ?? null)
const steps = computed(() => pattern.value?.sheet[props.of] ?? [])
const done = computed(() => (props.of === 'opening' ? pattern.value?.opened : pattern.value?.closed) ?? [])
const next = computed(() => steps.value.find((s) => !done.value.includes(s.does)) ?? null)
const whole = ref(false)
const closed = computed(() => job.value.assessment.closed !== null)
const tick = (step: string, did = true) => act(() => settled(client.POST('/api/jobs/{job_id}/steps', { params: { path: { job_id: job.value.facts.id } }, body: { list: props.of, step, done: did } })))
/** What its contacts read on a healthy one, before anything is opened. */
const contacts = computed(() => (props.of === 'opening' && !done.value.length && !job.value.assessment.probe?.readings.length ? (pattern.value?.sheet.contacts ?? []).filter((c) => c.volts !== null || c.ohm !== null) : []))
const heads = { opening: 'Opening it', closing: 'Closing it' }
useShortcuts(() => (next.value && !closed.value ? [{ key: 'o', does: `${props.of} step done: ${next.value.does.slice(0, 40)}`, run: () => void tick(next.value!.does), always: true }] : []))
</script>

<template>
  <section v-if="contacts.length" class="steps" aria-label="Before it is opened">
    <h2>Before it is opened</h2>
    <p v-for="c in contacts" :key="c.contact"><strong>{{ c.contact }}</strong> <template v-if="c.volts !== null">{{ c.volts }} V</template><template v-if="c.ohm !== null">{{ (c.ohm ?? 0) >= 1000 ? `${(c.ohm ?? 0) / 1000} kΩ` : `${c.ohm} Ω` }} in a room</template><span v-if="c.says" class="muted">, {{ c.says }}</span></p>
  </section>
  <section v-if="steps.length" class="steps" :aria-label="heads[of]">
    <h2>{{ heads[of] }} <span class="muted mono">{{ done.length }} of {{ steps.length }}</span></h2>
    <template v-if="next">
      <p class="next"><strong>{{ next.does }}</strong><span v-if="next.tool" class="muted">{{ next.tool }}</span></p>
      <Caution v-if="next.caution" :title="`Caution. ${next.caution}`" />
      <div v-if="!closed" class="acts"><button type="button" class="chip" @click="tick(next.does)">done</button><kbd>o</kbd><button v-if="next.photo" type="button" class="linklike" @click="emit('photo', next.photo)">see {{ next.photo }}</button></div>
    </template>
    <p v-else class="muted">Every step is ticked off.</p>
    <button type="button" class="linklike first" @click="whole = !whole">{{ whole ? 'the next one alone' : 'all of them' }}</button>
    <ol v-if="whole">
      <li v-for="s in steps" :key="s.does"><button type="button" class="chip" :aria-pressed="done.includes(s.does)" :disabled="closed" @click="tick(s.does, !done.includes(s.does))">{{ done.includes(s.does) ? 'done' : 'to do' }}</button><span>{{ s.does }}<span v-if="s.tool" class="muted">, {{ s.tool }}</span><b v-if="s.caution" class="careful"> Caution: {{ s.caution }}</b></span></li>
    </ol>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.steps {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 6px;
  padding-top: 10px;
}

h2 .mono {
  font-size: 14px;
  font-weight: 400;
}

.next {
  display: grid;
  font-size: 19px;
}

.next .muted {
  font-size: 15px;
}

.acts {
  align-items: center;
  display: flex;
  gap: 8px;
}

.first {
  margin-left: 0;
}

ol {
  display: grid;
  gap: 6px;
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: start;
  display: grid;
  gap: 10px;
  grid-template-columns: 76px minmax(0, 1fr);
}

.careful {
  display: block;
  font-size: 14px;
}
</style>
