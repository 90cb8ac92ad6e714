<script setup lang="ts">
import HeadBar from '@/shell/HeadBar.vue'
import KeysHelp from '@/shell/KeysHelp.vue'

import PeopleTable from './PeopleTable.vue'
import TrailTable from './TrailTable.vue'
</script>

<template>
  <div class="page">
    <HeadBar />
    <KeysHelp />
    <main>
      <PeopleTable />
      <TrailTable />
    </main>
  </div>
</template>

<style scoped>
.page { display: grid; grid-template: 'head' 40px 'main' minmax(0, 1fr) / minmax(0, 1fr); height: 100%; }
main { display: grid; grid-template-columns: minmax(440px, 5fr) minmax(0, 7fr); gap: 20px; align-items: start; align-content: start; overflow: auto; padding: 20px 28px; }
main > :deep(section) { padding: 12px 16px 16px; background: var(--paper); border: 1px solid var(--hair); }
@media (max-width: 1150px) { main { grid-template-columns: minmax(0, 1fr); } }
</style>
