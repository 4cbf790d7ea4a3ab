<script setup lang="ts">
import { computed, ref } from 'vue'
import { client, settled } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import { stringName } from '@/composables/build'
import { volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import { sent } from '@/forms/quantity'
import NumberField from '@/forms/NumberField.vue'
import TextField from '@/forms/TextField.vue'

/** Strings side by side: what each rests at, whether they touch, and parting and joining them. Nothing for a pack of one string. */
defineProps<{ closed: boolean }>()
const job = useJob()
const settings = useSettings()
const now = computed(() => job.value.now)
const by = ref(settings.value.technician)
const read = ref('')
const { act, busy, refusal } = useAct()
const others = computed(() => Array.from({ length: now.value.strings - 1 }, (_, k) => stringName(k + 1)))
const rests = computed(() => now.value.string_v.map((v, k) => `${stringName(k)} ${v === null ? 'not read' : `${volts(v, 2)} V`}`).join(', '))

async function tell(joined: boolean) {
  const apart_v = joined ? read.value.split(/[\s;]+/).filter(Boolean).map((t) => sent(t, 'V') as number) : []
  const done = await act(() => settled(client.POST('/api/jobs/{job_id}/strings', { params: { path: { job_id: job.value.facts.id } }, body: { joined, by: by.value, apart_v } })))
  if (done) read.value = ''
}
</script>

<template>
  <section v-if="now.strings > 1" class="strings">
    <h2>Strings side by side</h2>
    <p>By their groups: {{ rests }}. <strong>{{ now.parted ? 'They are parted.' : 'They are joined.' }}</strong></p>
    <template v-if="!closed && now.parted">
      <Caution title="Minus ends first, then one reading, then the plus ends.">Black on the plus of string A, red on the plus of {{ others.join(', then of ') }}. They are joined within 50 mV: from further apart the higher one pours into the other, and the joint arcs as it closes.</Caution>
      <form class="join" @submit.prevent="tell(true)">
        <NumberField v-model="read" many unit="V" bare :label="others.length > 1 ? 'What it reads, V, one after the other' : 'What it reads, V'" :error="refusal?.on('apart_v')" placeholder="0.012" />
        <TextField v-if="!settings.technician" v-model="by" label="By" maxlength="60" :error="refusal?.on('by')" />
        <ElButton native-type="submit" type="primary" :loading="busy" :disabled="!read.trim()">They are joined now</ElButton>
      </form>
    </template>
    <template v-else-if="!closed">
      <p class="muted">What one group takes now lifts its string, and the string beside it drinks from it: part them at one end before a group is charged by itself.</p>
      <form class="join" @submit.prevent="tell(false)">
        <TextField v-if="!settings.technician" v-model="by" label="By" maxlength="60" :error="refusal?.on('by')" />
        <ElButton native-type="submit" :loading="busy">They are parted now</ElButton>
      </form>
    </template>
    <p v-if="refusal && !refusal.on('by') && !refusal.on('apart_v')" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.strings {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

.join {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}

h2 {
  font-size: 19px;
}
</style>
