<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import FieldRow from '@/bench/FieldRow.vue'

/** New cells in a group that was under the floor: who put them in, and what; nothing else lifts the bar but its own tabs. */
const props = defineProps<{ group: number }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const open = ref(false)
const by = ref('')
const note = ref('')
const cells = ref('')
const cache = useQueryClient()
const held = ref<string[]>([])
watch(open, async (now) => {
  if (!now) return
  // Those put by for this group in Plan are the ones that go in.
  const plan = await settled(client.GET('/api/jobs/{job_id}/plan', { params: { path: { job_id: job.value.facts.id } } })).catch(() => null)
  held.value = plan?.held.find((h) => h.group === props.group && !h.built)?.cells ?? []
  cells.value = held.value.join(' ')
})
const done = computed(() => job.value.facts.replaced.some((r) => r.group === props.group))

async function keep() {
  const body = { group: props.group, by: by.value, note: note.value, cells: cells.value.split(/[\s,;]+/).filter(Boolean) }
  if (await act(() => settled(client.POST('/api/jobs/{job_id}/replaced', { params: { path: { job_id: job.value.facts.id } }, body })))) {
    open.value = false
    await cache.invalidateQueries({ queryKey: ['cells'] })
  }
}
</script>

<template>
  <p v-if="done" class="muted">Recorded as replaced. Begin a new set in Probe and read it.</p>
  <button v-else-if="!open" type="button" class="linklike" @click="open = true">group {{ group }} has new cells</button>
  <form v-else class="replaced" @submit.prevent="keep">
    <FieldRow label="Put in by" :error="refusal?.on('by')"><template #default="{ id }"><ElInput :id="id" v-model="by" maxlength="60" /></template></FieldRow>
    <FieldRow label="What was put in"><template #default="{ id }"><ElInput :id="id" v-model="note" maxlength="400" placeholder="two new cells, 2.5 Ah" /></template></FieldRow>
    <FieldRow label="Cells of the drawer, by name" :error="refusal?.on('cells')"><template #default="{ id }"><ElInput :id="id" v-model="cells" :placeholder="held.length ? '' : 'none, or scan their labels'" /></template></FieldRow>
    <ElButton type="primary" native-type="submit" :loading="busy">Record it</ElButton>
    <p v-if="refusal && !refusal.on('by') && !refusal.on('cells')" class="error" role="alert">{{ refusal.message }}</p>
  </form>
</template>

<style scoped>
.replaced {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 18px;
}

.linklike {
  justify-self: start;
  min-height: 44px;
}
</style>
