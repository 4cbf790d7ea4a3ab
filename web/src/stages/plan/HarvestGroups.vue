<script setup lang="ts">
import { computed, ref } from 'vue'
import { client, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import { useCatalogue } from '@/cells/useCells'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import { useQueryClient } from '@tanstack/vue-query'
import TextField from '@/forms/TextField.vue'

/** This pack is a donor: sound groups are cut out, and their cells go into the drawer with their history. */
const job = useJob()
const settings = useSettings()
const cache = useQueryClient()
const { act, busy, refusal } = useAct()
const { data: catalogue } = useCatalogue()
const open = ref(false)
const groups = ref<number[]>([])
const type = ref('')
const name = ref('')
const box = ref('')
const by = ref(settings.value.technician)
const all = computed(() => Array.from({ length: job.value.facts.intake.pack.series }, (_, i) => i + 1))
const fits = computed(() => catalogue.value?.types.filter((t) => t.chemistry === job.value.facts.intake.pack.chemistry || 'li_oxide' === job.value.facts.intake.pack.chemistry) ?? [])
const kept = ref('')
const tick = (g: number) => (groups.value = groups.value.includes(g) ? groups.value.filter((k) => k !== g) : [...groups.value, g].sort((a, b) => a - b))
async function cut() {
  const body = { groups: groups.value, type: type.value, name: name.value, box: box.value, row: '', by: by.value }
  if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/harvested', { params: { path: { job_id: job.value.facts.id } }, body }))))) return
  kept.value = `Groups ${groups.value.join(', ')} are in the drawer.`
  open.value = false
  groups.value = []
  await cache.invalidateQueries({ queryKey: ['cells'] })
}
</script>

<template>
  <section class="harvest">
    <button v-if="!open" type="button" class="linklike" @click="open = true">This pack is a donor: keep sound groups for the drawer</button>
    <p v-if="kept" role="status">{{ kept }}</p>
    <form v-if="open" class="harvest" @submit.prevent="cut">
      <h2>Groups cut out for the drawer</h2>
      <p class="muted">Cut the string in the middle first, insulate every end at once. Groups under the floor, reversed, swollen or leaking are waste and are refused.</p>
      <div class="chips" role="group" aria-label="Groups"><button v-for="g in all" :key="g" type="button" class="chip" :aria-pressed="groups.includes(g)" @click="tick(g)">{{ g }}</button></div>
      <div class="fields">
        <FieldRow label="Their type" :error="refusal?.on('type')"><template #default="{ id }"><ElSelect :id="id" v-model="type"><ElOption v-for="t in fits" :key="t.name" :value="t.name" :label="t.name" /></ElSelect></template></FieldRow>
        <TextField v-model="name" label="Called" :error="refusal?.on('name')" maxlength="24" placeholder="TD-" />
        <TextField v-model="box" label="Box" maxlength="30" />
        <TextField v-model="by" label="Cut out by" :error="refusal?.on('by')" maxlength="60" />
      </div>
      <div class="chips"><ElButton type="primary" native-type="submit" :loading="busy" :disabled="!groups.length || !type || !name.trim() || !by.trim()">Into the drawer</ElButton><ElButton @click="open = false">Cancel</ElButton></div>
      <p v-if="refusal && !['type', 'name', 'by'].some((f) => refusal!.on(f))" class="error" role="alert">{{ refusal.message }}</p>
    </form>
  </section>
</template>

<style scoped>
.harvest {
  display: grid;
  gap: 10px;
}

.harvest > .linklike {
  justify-self: start;
  margin: 0;
}

.fields {
  display: grid;
  gap: 8px 14px;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
}
</style>
