<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import { useAct } from '@/composables/useAct'
import { useCardQuery } from '@/composables/useMoney'
import NumberField from '@/forms/NumberField.vue'
import { following } from '@/forms/following'
import { sent, wrongWith } from '@/forms/quantity'
import FieldRow from './FieldRow.vue'
import TextField from '@/forms/TextField.vue'

/** Who the shop is, told once: the head of its papers, its money, its hour, its terms. */
const { data: card } = useCardQuery()
const { data: prices } = useQuery({ queryKey: ['prices'], queryFn: () => settled(client.GET('/api/prices')) })
const { act, busy, refusal } = useAct()
const form = ref<Schemas['ShopCard'] | null>(null)
const hour = ref('')
const kept = ref(false)
const COMMON = ['EUR', 'CHF', 'GBP', 'USD', 'SEK', 'NOK', 'DKK', 'PLN', 'CZK', 'HUF']
// What another window saved is shown where nothing is typed over it.
let shown: Schemas['ShopCard'] | null = null
function follow(now: Schemas['ShopCard'], from: Schemas['ShopCard'] | null) {
  form.value = form.value && from ? following(now, from, form.value) : { ...now }
  shown = now
}
watch(card, (now) => now && follow(now, shown), { immediate: true })
let hourShown = ''
watch(prices, (now) => {
  if (!now) return
  const written = now.labour_h == null ? '' : String(now.labour_h)
  if (hour.value === hourShown) hour.value = written
  hourShown = written
}, { immediate: true })

async function keep() {
  kept.value = false
  if (wrongWith(hour.value, 'money')) return
  const body = { ...form.value!, currency: form.value!.currency.trim().toUpperCase() }
  const sending = { ...form.value! }
  const now = await act(() => settled(client.POST('/api/card', { body })))
  if (!now) return
  follow(now, sending)
  queryClient.setQueryData(['card'], now)
  const hourly = sent(hour.value, 'money')
  if (hourly !== (prices.value?.labour_h ?? null)) {
    const set = await act(() => settled(client.POST('/api/prices', { body: { ...prices.value!, labour_h: hourly } })))
    if (!set) return
    queryClient.setQueryData(['prices'], set)
  }
  kept.value = true
}
</script>

<template>
  <form v-if="form" class="part" @submit.prevent="keep">
    <h2>The shop</h2>
    <p class="muted">Printed at the head of every paper; prices are shown in its currency.</p>
    <div class="pair">
      <TextField v-model="form.name" label="Name" :error="refusal?.on('name')" maxlength="80" />
      <TextField v-model="form.contact" label="Telephone, e-mail" :error="refusal?.on('contact')" maxlength="120" />
    </div>
    <TextField v-model="form.address" label="Address" :error="refusal?.on('address')" maxlength="200" />
    <div class="pair">
      <FieldRow label="Currency, three letters" :error="refusal?.on('currency')"><template #default="{ id }"><ElInput :id="id" v-model="form.currency" maxlength="3" list="currencies" /><datalist id="currencies"><option v-for="c in COMMON" :key="c" :value="c"></option></datalist></template></FieldRow>
      <NumberField v-model="hour" label="Hour at the bench" unit="money" :error="refusal?.on('labour_h')" placeholder="45" />
    </div>
    <TextField v-model="form.terms" label="Terms of the warranty, as printed" :error="refusal?.on('terms')" type="textarea" :rows="2" maxlength="1000" />
    <p v-if="refusal && !['name', 'contact', 'address', 'currency', 'labour_h', 'terms'].some((f) => refusal!.on(f))" class="error" role="alert">{{ refusal.message }}</p>
    <div class="keep"><ElButton type="primary" native-type="submit" :loading="busy">Save the shop’s card</ElButton><span v-if="kept" role="status">Saved; used from now on.</span></div>
  </form>
</template>

<style scoped>
.part {
  display: grid;
  gap: 10px;
  max-width: 640px;
}

.pair {
  display: grid;
  gap: 10px 14px;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
}

.keep {
  align-items: center;
  display: flex;
  gap: 14px;
}
</style>
