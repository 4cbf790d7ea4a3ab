<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useStorage } from '@vueuse/core'
import { client, type Schemas, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import FieldRow from '@/bench/FieldRow.vue'
import { useAct } from '@/composables/useAct'
import { useSettings } from '@/composables/useSettings'
import NumberField from '@/forms/NumberField.vue'
import TextField from '@/forms/TextField.vue'
import { emptyDraft, packOf } from '@/stages/take-in/draft'
import { keepPattern, type Sheet } from './usePatterns'

/** A pattern begun by hand: its name and its cells; all else comes on its page. */
const emit = defineEmits<{ left: [] }>()
const router = useRouter()
const settings = useSettings()
const { data: terms } = useTermsQuery()
const { act, busy, refusal } = useAct()
const draft = useStorage('saldatura.pattern.new', { title: '', chemistry: '', series: '', parallel: '1', rated_ah: '' })
const by = ref(settings.value.technician)
const on = (name: string) => refusal.value?.on(`sheet.${name}`)
const asked = ref(false)
const missing = computed(() => (draft.value.chemistry ? null : 'Chemistry: choose one; “4.20 V lithium-ion” where only that is known.'))
async function begin() {
  asked.value = true
  if (missing.value) return
  const pack = packOf({ ...emptyDraft(), ...draft.value, chemistry: draft.value.chemistry as Schemas['Pack']['chemistry'] })
  const body = { sheet: { title: draft.value.title.trim(), pack } as Sheet, by: by.value, why: 'begun by hand' }
  const made = await act(() => settled(client.POST('/api/patterns', { body })))
  if (!made) return
  draft.value = { title: '', chemistry: '', series: '', parallel: '1', rated_ah: '' }
  keepPattern(made)
  void router.push(`/patterns/${made.id}`)
}
</script>

<template>
  <form class="begin" @submit.prevent="begin">
    <TextField v-model="draft.title" label="Title, free of makes" maxlength="80" class="wide" :error="on('title')" autofocus />
    <FieldRow label="Chemistry" group class="wide" :error="on('pack.chemistry')">
      <div class="chips"><button v-for="c in terms?.chemistries ?? []" :key="c.key" type="button" class="chip" :aria-pressed="draft.chemistry === c.key" @click="draft.chemistry = c.key">{{ c.name }}</button></div>
    </FieldRow>
    <TextField v-model="draft.series" label="In series" placeholder="5, or 5S2P" maxlength="20" :error="on('pack.series')" />
    <TextField v-model="draft.parallel" label="In parallel" inputmode="numeric" maxlength="20" :error="on('pack.parallel')" />
    <NumberField v-model="draft.rated_ah" label="Rated" unit="Ah" :error="on('pack.rated_ah')" />
    <TextField v-model="by" label="Who begins it" maxlength="60" :error="refusal?.on('by')" />
    <p v-if="asked && missing" class="error wide" role="alert">{{ missing }}</p>
    <p v-else-if="refusal && !['title', 'pack.series', 'pack.parallel', 'pack.rated_ah'].some(on) && !refusal.on('by')" class="error wide" role="alert">{{ refusal.message }}</p>
    <div class="wide"><ElButton type="primary" size="large" native-type="submit" :loading="busy">Begin it</ElButton> <ElButton size="large" @click="emit('left')">Leave it</ElButton></div>
  </form>
</template>

<style scoped>
.begin {
  border-left: 4px solid var(--copper);
  display: grid;
  gap: 10px 16px;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  padding-left: 16px;
}

.wide {
  grid-column: 1 / -1;
}

@media (max-width: 760px) {
  .begin {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
