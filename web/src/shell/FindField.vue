<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { findQuery } from '@/api/queries'

import { useSignal } from './useSignal'

const router = useRouter()
const text = ref('')
const isOpen = ref(false)
const field = ref<HTMLInputElement | null>(null)
const { data } = useQuery(computed(() => findQuery(text.value)))
const found = computed(() => data.value?.found ?? [])
type Found = (typeof found.value)[number]

useSignal('find', () => field.value?.focus())

function go(one: Found | undefined): void {
  if (!one) return
  isOpen.value = false
  text.value = ''
  field.value?.blur()
  const station = one.part ? `blank/${one.part}` : 'part'
  void router.push(one.order ? `/orders/${one.order}/${station}` : '/stores')
}

function close(): void {
  window.setTimeout(() => (isOpen.value = false), 150)
}
</script>

<template>
  <div class="find">
    <input
      ref="field" v-model="text" type="text" placeholder="Find a part, order, sheet …" aria-label="Find"
      @focus="isOpen = true" @blur="close" @keydown.enter="go(found[0])" @keydown.esc="field?.blur()"
    />
    <span class="key">/</span>
    <ul v-if="isOpen && text.trim()">
      <li v-for="(one, i) in found" :key="i" @mousedown.prevent="go(one)">
        <span>{{ one.title }}</span><span class="quiet small">{{ one.note }}</span>
      </li>
      <li v-if="!found.length" class="quiet">Nothing of that name</li>
    </ul>
  </div>
</template>

<style scoped>
.find { position: relative; flex: 0 1 250px; margin-left: auto; }
input[type='text'] { width: 100%; background: var(--head-field); border-color: var(--head-field); color: var(--head-words); padding-right: 20px; }
input::placeholder { color: var(--head-quiet); }
.key { position: absolute; right: 8px; top: 4px; color: var(--head-quiet); font: 12px var(--figures); }
ul { position: absolute; z-index: 30; left: 0; right: 0; top: 30px; margin: 0; padding: 4px 0; list-style: none;
  background: var(--paper); color: var(--ink); border: 1px solid var(--hair); }
li { display: flex; justify-content: space-between; gap: 10px; padding: 4px 10px; cursor: pointer; }
li:hover { background: var(--dye-wash); }
</style>
