<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'

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
watch(() => props.repair, (r) => { price.value = r.outlay === null ? '' : String(Math.round(r.outlay)) }, { immediate: true })
async function take() {
  const body = { repair: props.repair.repair, groups: props.repair.at.groups, price: sent(price.value, 'money'), by: by.value, note: note.value }
  if (await act(() => settled(client.POST('/api/jobs/{job_id}/accepted', { params: { path: { job_id: job.value.facts.id } }, body })))) open.value = false
}
</script>

<template>
  <ElButton v-if="!open" type="primary" size="large" @click="open = true">The customer takes this</ElButton>
  <form v-else class="take" @submit.prevent="take">
    <NumberField v-model="price" label="Price agreed" unit="money" :error="refusal?.on('price')" />
    <FieldRow :label="why ? 'Why it is done' : 'Note'" :error="refusal?.on('note')"><template #default="{ id }"><ElInput :id="id" v-model="note" maxlength="400" /></template></FieldRow>
    <FieldRow label="Agreed with" :error="refusal?.on('by')"><template #default="{ id }"><ElInput :id="id" v-model="by" maxlength="60" /></template></FieldRow>
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
