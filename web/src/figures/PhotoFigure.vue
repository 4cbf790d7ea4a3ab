<script setup lang="ts">
import { computed, shallowRef, useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'
import { type Place, placeName } from './places'

/** A photo with its pins; those to touch next pulse. While `placing`, a click or the arrow keys and Enter put a pin. */
const props = defineProps<{ src: string; photo: Schemas['PhotoFact']; pins: Schemas['PhotoPin'][]; lit: string[]; placing: string | null }>()
const emit = defineEmits<{ put: [x: number, y: number]; pick: [place: Place] }>()

const plate = useTemplateRef<HTMLElement>('plate')
const cross = shallowRef<{ x: number; y: number } | null>(null)

const shown = computed(() => props.pins.map((pin) => ({ ...pin, text: pin.place.kind === 'tap' ? String(pin.place.tap) : placeName(pin.place), full: placeName(pin.place), lit: props.lit.includes(placeName(pin.place)) })))
const percent = (share: number) => `${(share * 100).toFixed(2)}%`

function click(event: MouseEvent) {
  if (!props.placing || !plate.value) return
  const box = plate.value.getBoundingClientRect()
  const at = (offset: number, size: number) => Math.min(Math.max(offset / size, 0), 1)
  emit('put', at(event.clientX - box.left, box.width), at(event.clientY - box.top, box.height))
}

const ARROWS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
function key(event: KeyboardEvent) {
  if (!props.placing || event.altKey || event.ctrlKey || event.metaKey) return
  const step = ARROWS[event.key]
  const from = cross.value ?? { x: 0.5, y: 0.5 }
  if (step) {
    const size = event.shiftKey ? 0.002 : 0.02
    const inside = (share: number) => Math.min(Math.max(share, 0), 1)
    cross.value = { x: inside(from.x + step[0] * size), y: inside(from.y + step[1] * size) }
  } else if (event.key === 'Enter') emit('put', from.x, from.y)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <!-- eslint-disable-next-line vuejs-accessibility/no-static-element-interactions -->
  <div ref="plate" class="plate" :class="{ placing }" :style="{ '--w': photo.width, '--h': photo.height }" :tabindex="placing ? 0 : undefined" role="group" :aria-label="placing ? `${photo.caption || 'Photo'}: arrow keys move the cross, Enter pins ${placing}` : photo.caption || 'Photo'" @click="click" @keydown="key" @blur="cross = null">
    <img :src="src" :width="photo.width" :height="photo.height" :alt="photo.caption || 'Photo of the opened pack'" draggable="false" />
    <span v-if="placing && cross" class="cross" :style="{ left: percent(cross.x), top: percent(cross.y) }"></span>
    <button v-for="pin in shown" :key="pin.full" type="button" class="pin" :class="[pin.place.kind, { lit: pin.lit, leftward: pin.x > (pin.place.kind === 'tap' ? 0.85 : 0.6) }]" :style="{ left: percent(pin.x), top: percent(pin.y) }" :aria-label="placing ? `${pin.full}: take this pin off` : pin.place.kind === 'tap' ? `read tap ${pin.place.tap}` : pin.full" @click.stop="emit('pick', pin.place)">
      <span class="head"></span><span class="flag">{{ pin.text }}</span>
    </button>
  </div>
</template>

<style scoped>
.plate {
  aspect-ratio: var(--w) / var(--h);
  max-height: 100%;
  max-width: 100%;
  position: relative;
  width: min(100%, calc(var(--tall) * var(--w) / var(--h)));
}

.placing {
  cursor: crosshair;
  outline: 2px dashed var(--copper);
  outline-offset: 2px;
}

.placing:focus-visible {
  outline: 3px solid var(--copper);
}

img {
  display: block;
  height: 100%;
  width: 100%;
}

.pin {
  background: none;
  border: 0;
  cursor: pointer;
  border-radius: 50%;
  height: 44px;
  margin: -22px 0 0 -22px;
  padding: 0;
  position: absolute;
  width: 44px;
}

.head {
  background: var(--ink);
  border: 2px solid var(--paper);
  border-radius: 50%;
  box-sizing: border-box;
  height: 14px;
  left: 15px;
  position: absolute;
  top: 15px;
  width: 14px;
}

.sensor .head {
  border-radius: 0;
}

.node .head {
  border-radius: 0;
  transform: rotate(45deg);
}

.flag {
  background: var(--paper);
  border: 1px solid var(--ink);
  color: var(--ink);
  font-family: var(--mono);
  font-size: 14px;
  font-weight: 650;
  left: 30px;
  line-height: 18px;
  padding: 0 5px;
  position: absolute;
  top: 12px;
  white-space: nowrap;
}

.leftward .flag {
  left: auto;
  right: 30px;
}

/* Names of parts are long: they show when asked for, or when it is their turn. */
.node:not(.lit, :hover, :focus-visible) .flag,
.sensor:not(.lit, :hover, :focus-visible) .flag {
  display: none;
}

.pin:hover,
.pin:focus-visible {
  z-index: 1;
}

.lit .head {
  animation: touch-here 1.2s ease-in-out infinite;
  background: var(--copper);
}

.lit .flag {
  background: var(--copper);
  border-color: var(--copper);
  color: var(--paper);
}

@keyframes touch-here {
  50% {
    box-shadow: 0 0 0 13px color-mix(in srgb, var(--copper) 45%, transparent);
    transform: scale(1.25);
  }
}

.cross {
  height: 0;
  position: absolute;
  width: 0;
}

.cross::before,
.cross::after {
  background: var(--copper);
  box-shadow: 0 0 0 1px var(--paper);
  content: '';
  position: absolute;
}

.cross::before {
  height: 2px;
  left: -16px;
  top: -1px;
  width: 32px;
}

.cross::after {
  height: 32px;
  left: -1px;
  top: -16px;
  width: 2px;
}

@media (prefers-reduced-motion: reduce) {
  .lit .head {
    animation: none;
    box-shadow: 0 0 0 6px color-mix(in srgb, var(--copper) 45%, transparent);
  }
}
</style>
