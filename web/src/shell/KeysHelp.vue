<script setup lang="ts">
import { useView } from '@/stores/view'

import { KEYS } from './useKeys'

const view = useView()
</script>

<template>
  <aside v-if="view.isHelpShown" class="keys" role="dialog" aria-label="All keys">
    <h2>Keys <button type="button" class="bare" @click="view.isHelpShown = false">close</button></h2>
    <dl>
      <template v-for="[key, what] in KEYS" :key="key"><dt class="num">{{ key }}</dt><dd>{{ what }}</dd></template>
    </dl>
  </aside>
</template>

<style scoped>
.keys { position: fixed; z-index: 40; right: 12px; top: 48px; width: 300px; padding: 10px 14px; background: var(--paper); border: 1px solid var(--ink); }
h2 { display: flex; justify-content: space-between; }
dl { display: grid; grid-template-columns: 92px 1fr; gap: 3px 8px; margin: 8px 0 0; }
dd { margin: 0; }
</style>
