<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import TextField from '@/forms/TextField.vue'

/** The customer took this one: for how much, and who heard it. */
const props = defineProps<{ repair: Schemas['Repair'] }>()
const job = useJob()
const settings = useSettings()
const { act, busy, refusal } = useAct()
const open = ref(false)
const by = ref(settings.value.technician)
const price = ref('')
const note = ref('')
// One group fewer changes charger and device: nobody does that without a reason.
const why = computed(() => props.repair.repair === 'drop_group' || props.repair.ruled_out)
const offered = computed(() => (props.repair.outlay === null ? '' : String(Math.round(props.repair.outlay))))
// What was agreed is what was typed: a plan that is worked out anew meanwhile offers another price only where nobody typed one.
const option = computed(() => JSON.stringify([props.repair.repair, props.repair.at.groups, props.repair.with]))
watch([option, offered], ([chosen, now], [before, was]) => { if (chosen !== before || price.value === was) price.value = now }, { immediate: true })
async function take() {
  const also = props.repair.combined ? props.repair.with : []
  const body = { repair: props.repair.repair, also, groups: props.repair.at.groups, price: sent(price.value, 'money'), by: by.value, note: note.value }
  if (await act(() => settled(client.POST('/api/jobs/{job_id}/accepted', { params: { path: { job_id: job.value.facts.id } }, body })))) open.value = false
}
</script>

<template>
  <ElButton v-if="!open" type="primary" size="large" @click="open = true">The customer takes this</ElButton>
  <form v-else class="take" @submit.prevent="take">
    <NumberField v-model="price" label="Price agreed" unit="money" :error="refusal?.on('price')" />
    <TextField v-model="note" :label="why ? 'Why it is done' : 'Note'" :error="refusal?.on('note')" maxlength="400" />
    <TextField v-model="by" label="Agreed with" :error="refusal?.on('by')" maxlength="60" />
    <div class="line"><ElButton type="primary" native-type="submit" :loading="busy">Record the choice</ElButton><ElButton @click="open = false">Cancel</ElButton></div>
    <p v-if="refusal && !refusal.on('by') && !refusal.on('price')" class="error" role="alert">{{ refusal.message }}</p>
  </form>
</template>

<style scoped>
.take {
  display: grid;
  gap: 8px;
}

.line {
  display: flex;
  gap: 6px;
}
</style>
