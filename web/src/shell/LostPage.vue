<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <main class="container py-5">
    <h1>There is nothing at this address</h1>
    <p>The link may be old. <RouterLink to="/cases">Go to your cases</RouterLink></p>
  </main>
</template>
