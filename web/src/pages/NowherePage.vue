<template>
  <main class="nowhere">
    <h1>There is nothing at this address</h1>
    <p><RouterLink to="/">Go to the orders</RouterLink></p>
  </main>
</template>

<style scoped>
.nowhere { padding: 80px; }
</style>
