<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { clock, millivolts, volts } from '@/composables/format'
import { pointInColumn } from '@/composables/points'
import { vFrom } from '@/composables/origin'
import { digitsTyped } from '@/composables/parseVolts'

/** The readings of a set, newest first; superseded ones stay beside what replaced them, struck through. */
const props = defineProps<{ assessed: Schemas['Assessed']; readings: Schemas['ReadingFact'][]; digits: number; strings: number }>()
const each = computed(() => props.assessed.verdict.groups.length / props.strings)

const rows = computed(() => {
  const here = props.readings.filter((r) => r.set_id === props.assessed.set.id)
  const replacedBy = new Map(here.filter((r) => r.supersedes !== null).map((r) => [r.supersedes, r.id]))
  const standing = here.filter((r) => !replacedBy.has(r.id))
  return standing.toReversed().map((reading) => {
    const index = props.assessed.reading_ids.indexOf(reading.id)
    const gives = groupOf(reading.point)
    const group = gives === null ? undefined : props.assessed.verdict.groups[gives - 1]
    const residual = index >= 0 ? (props.assessed.reconciled.residuals_v[index] ?? null) : null
    const doubted = props.assessed.reconciled.findings.some((f) => (f.kind === 'wrong_reading' || f.kind === 'reversed_probes') && f.reading === index)
    return { reading, struck: chain(reading, here), group, residual, doubted }
  })
})

function groupOf(point: Schemas['ReadingFact']['point']): number | null {
  if (point.kind === 'tap') return point.tap
  if (point.kind === 'group') return point.group
  // Against the minus of its own string.
  return props.strings > 1 && point.kind === 'span' && point.from_tap % each.value === 0 ? point.to_tap : null
}

function chain(reading: Schemas['ReadingFact'], here: Schemas['ReadingFact'][]): Schemas['ReadingFact'][] {
  const struck: Schemas['ReadingFact'][] = []
  let at = reading.supersedes
  while (at !== null) {
    const old = here.find((r) => r.id === at)
    if (old && old.volts !== null) struck.unshift(old)
    at = old?.supersedes ?? null
  }
  return struck
}
</script>

<template>
  <table class="run">
    <thead>
      <tr>
        <th>point</th>
        <th class="number">read, V</th>
        <th>gives</th>
        <th class="number">V</th>
        <th class="number">off the median</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.reading.id" :class="{ doubted: row.doubted }" :title="`${clock(row.reading.at)}${row.reading.reason ? `, ${row.reading.reason}` : ''}`">
        <td>{{ pointInColumn(row.reading.point, each) }}<em v-if="row.reading.place === 'tab'" class="muted"> on its tabs</em><strong v-if="row.doubted" class="doubt"> does not fit</strong></td>
        <td class="number"><s v-for="old in row.struck" :key="old.id">{{ volts(old.volts, digitsTyped(old.resolution_v, digits)) }}</s> {{ row.reading.volts === null ? 'cannot reach' : volts(row.reading.volts, digitsTyped(row.reading.resolution_v, digits)) }}</td>
        <td>{{ row.group ? `group ${row.group.group}` : '' }}</td>
        <td v-if="row.group" v-from="{ what: `Group ${row.group.group}`, set: assessed, groups: [row.group.group] }" class="number">{{ row.group.volts == null ? '' : volts(row.group.volts, digits) }}</td>
        <td v-else></td>
        <td class="number" :class="{ out: row.group && row.group.state !== 'level' }">{{ row.group?.volts == null ? '' : `${row.group.state === 'low' ? '▼ ' : row.group.state === 'high' ? '▲ ' : ''}${millivolts(row.group.off_plumb_v)} mV` }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
td + td {
  white-space: nowrap;
}

@media (max-width: 1100px) {
  td,
  th {
    font-size: 14px;
    padding: 6px 4px;
  }
}

s {
  margin-right: 8px;
}

.out {
  color: var(--copper);
  font-weight: 700;
}

.doubted {
  background: repeating-linear-gradient(-45deg, var(--hazard-tint) 0 8px, transparent 8px 14px);
}

.doubt {
  color: var(--hazard);
}

/* What a reading gives hangs in the figure too. */
@media (max-width: 900px) {
  .run :is(th, td):nth-child(3) {
    display: none;
  }
}
</style>
