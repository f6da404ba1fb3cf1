<script setup lang="ts">
import { RouterView } from 'vue-router'
import TopBar from './TopBar.vue'
import { useSession } from '../entry/session'

const session = useSession()
</script>

<template>
  <BApp>
    <div class="page">
      <TopBar v-if="session.person" />
      <RouterView />
    </div>
  </BApp>
</template>

<style scoped>
.page {
  min-height: 100%;
  display: flex;
  flex-direction: column;
}
</style>
