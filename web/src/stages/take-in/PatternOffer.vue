<script setup lang="ts">
import { computed, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { useDebounce } from '@vueuse/core'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import { buildOf, photoOf, wholeAh } from '@/patterns/usePatterns'
import { type Draft, fromSheet, labelFigures } from './draft'

/** Patterns that may be the pack on the counter, as it is typed in; the one taken fills what it knows, and the hand goes on. */
const draft = defineModel<Draft>({ required: true })
const props = defineProps<{ wanted: number | null }>()
const asked = useDebounce(computed(() => ({
  text: draft.value.pack_name.trim(),
  ...labelFigures(draft.value.label ?? ''),
  contacts: /^\d+$/.test((draft.value.contacts ?? '').trim()) ? Number(draft.value.contacts) : undefined,
  chemistry: draft.value.chemistry || undefined,
})), 120)
const some = computed(() => !draft.value.pattern && (asked.value.text.length > 1 || asked.value.volts !== undefined || asked.value.ah !== undefined || asked.value.contacts !== undefined))
const { data: offers } = useQuery({
  queryKey: computed(() => ['offers', asked.value]),
  queryFn: () => settled(client.GET('/api/patterns/offers', { params: { query: asked.value as never } })),
  enabled: some,
  placeholderData: (before) => before,
})
const read = (id: number) => queryClient.fetchQuery({ queryKey: ['pattern', id], queryFn: () => settled(client.GET('/api/patterns/{number}', { params: { path: { number: id } } })) })

async function take(id: number) {
  const { sheet, retired } = await read(id)
  if (retired) return
  draft.value = { ...draft.value, ...fromSheet(sheet, draft.value), pattern: { id, title: sheet.title, photo: sheet.photos[0]?.sha256 ?? null } }
}
const leave = () => (draft.value = { ...draft.value, pattern: null })
watch(() => props.wanted, (id) => id && draft.value.pattern?.id !== id && void take(id).catch(() => null), { immediate: true })
const shown = computed<Schemas['PatternOffer'][]>(() => (some.value ? (offers.value ?? []).slice(0, 4) : []))
</script>

<template>
  <section v-if="draft.pattern" class="taken" aria-label="The pattern taken">
    <img v-if="draft.pattern.photo" :src="photoOf(draft.pattern.photo)" alt="" />
    <p><strong>As <RouterLink :to="`/patterns/${draft.pattern.id}`">{{ draft.pattern.title }}</RouterLink></strong> What is filled in below is the pattern’s. Correct what this pack has otherwise: it is noted beside the pattern, which stays as it is. <button type="button" class="linklike" @click="leave">it is not one of these</button></p>
  </section>
  <section v-else-if="shown.length" class="offers" aria-label="Seen before">
    <h2>Seen before</h2>
    <button v-for="o in shown" :key="o.id" type="button" class="offer" @click="take(o.id)">
      <strong>{{ o.title }} <span class="mono build">{{ buildOf(o.pack) }} {{ wholeAh(o.pack) }} Ah</span></strong><span class="muted">{{ o.because }}{{ o.jobs ? `; ${o.jobs} ${o.jobs === 1 ? 'was' : 'were'} here` : '' }}</span>
    </button>
  </section>
</template>

<style scoped>
.taken,
.offers {
  border-left: 4px solid var(--copper);
  display: grid;
  gap: 6px;
  padding-left: 14px;
}

.taken {
  align-items: center;
  gap: 14px;
  grid-template-columns: auto minmax(0, 1fr);
}

.taken img {
  height: 74px;
  object-fit: cover;
  width: 118px;
}

.offers {
  grid-template-columns: repeat(2, minmax(0, 1fr));
}

.offers h2 {
  font-size: 16px;
  grid-column: 1 / -1;
}

.offer {
  background: var(--sheet);
  border: 1px solid var(--petrol);
  color: var(--ink);
  cursor: pointer;
  display: grid;
  font: inherit;
  gap: 0 12px;
  grid-template-columns: minmax(0, 1fr);
  min-height: 44px;
  padding: 6px 12px;
  text-align: left;
}

.build {
  font-size: 14px;
  font-weight: 400;
}

.offer .muted {
  font-size: 14px;
  grid-column: 1 / -1;
}

.offer:hover {
  background: var(--petrol-tint);
}

@media (max-width: 760px) {
  .offers {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
