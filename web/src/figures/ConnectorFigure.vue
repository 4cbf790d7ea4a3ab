<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { volts } from '@/composables/format'

/** A balance connector from the side of its wires or of its mate: pin 0 at the notch, each with its lead and its volts. */
const props = defineProps<{ pins: Schemas['Pin'][]; side: 'wire' | 'mate' }>()

const PITCH = 56
const shown = computed(() => (props.side === 'wire' ? props.pins : props.pins.toReversed()))
const width = computed(() => props.pins.length * PITCH + 24)
const x = (i: number) => 12 + i * PITCH + PITCH / 2
const notch = computed(() => (props.side === 'wire' ? 4 : width.value - 4))
</script>

<template>
  <figure class="connector">
    <figcaption class="label">{{ side === 'wire' ? 'Seen from the wires' : 'Seen from its mate: mirrored' }}</figcaption>
    <svg :viewBox="`0 0 ${width} 112`" :width="Math.min(width, 540)" role="img" :aria-label="`Connector ${side === 'wire' ? 'from the wire side' : 'from the mating side'}: ${shown.map((p) => `pin ${p.tap} ${p.lead ?? 'no lead'}`).join(', ')}`">
      <rect x="4" y="20" :width="width - 8" height="48" class="house" />
      <path :d="`M${notch} 34v20`" class="notch" />
      <g v-for="(pin, i) in shown" :key="pin.tap" :class="pin.state">
        <text :x="x(i)" y="14" text-anchor="middle" class="tap">{{ pin.tap }}</text>
        <rect :x="x(i) - 13" y="31" width="26" height="26" class="pin" />
        <path v-if="pin.state === 'joined'" :d="`M${x(i) - 7} 44l5 6l9 -12`" class="tick" />
        <path v-if="pin.state === 'wrong' || pin.state === 'missing'" :d="`M${x(i) - 7} 37l14 14m0 -14l-14 14`" class="cross" />
        <text :x="x(i)" y="85" text-anchor="middle" class="lead">{{ pin.lead ?? 'none' }}</text>
        <text :x="x(i)" y="104" text-anchor="middle" class="volts">{{ volts(pin.expected_v, 2) }}</text>
      </g>
    </svg>
  </figure>
</template>

<style scoped>
.connector {
  margin: 0;
}

svg {
  display: block;
  max-width: 100%;
}

.house {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}

.notch {
  stroke: var(--ink);
  stroke-width: 8;
}

.pin {
  fill: var(--field);
  stroke: var(--ink);
  stroke-width: 2;
}

.next .pin {
  fill: var(--copper);
  stroke: var(--copper);
}

.joined .pin {
  stroke: var(--petrol);
}

.tick {
  fill: none;
  stroke: var(--petrol);
  stroke-width: 3.5;
}

.cross {
  stroke: var(--hazard);
  stroke-width: 3.5;
}

.wrong .pin,
.missing .pin {
  stroke: var(--hazard);
  stroke-dasharray: 4 3;
}

text {
  fill: var(--ink);
  font-family: var(--mono);
  font-size: 14px;
}

.tap {
  fill: var(--muted);
  font-size: 13px;
}

.next .lead,
.next .volts {
  fill: var(--copper);
  font-weight: 700;
}

.lead {
  font-family: var(--text);
}
</style>
