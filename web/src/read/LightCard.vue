<script setup lang="ts">
import type { Light } from '../api/client'
import RoleMark from '../halo/RoleMark.vue'
import TermHint from '../shell/TermHint.vue'
import { few, side, up } from './where'

defineProps<{ light: Light; first: boolean }>()
</script>

<template>
  <article class="light sheet" :class="`edge-${light.role}`" data-test="light">
    <div class="head">
      <svg width="16" height="16" viewBox="-8 -8 16 16"><RoleMark :role="light.role" /></svg>
      <h3>{{ light.role }}</h3>
      <span class="figure dir" data-test="direction">{{ side(light.azimuth_deg) }}, {{ up(light.elevation_deg) }} <span class="quiet">± {{ few(light.direction_sd_deg) }}°</span></span>
    </div>
    <p class="figure">
      <template v-if="light.angular_size_deg && light.angular_size_range_deg">
        <template v-if="light.angular_size_range_deg[1] > 4 * light.angular_size_range_deg[0]">size cannot be told ({{ few(light.angular_size_range_deg[0]) }}° to {{ few(light.angular_size_range_deg[1]) }}°)</template>
        <template v-else>{{ few(light.angular_size_deg) }}° wide ({{ few(light.angular_size_range_deg[0]) }} to {{ few(light.angular_size_range_deg[1]) }}), <TermHint term="hardness">{{ light.hardness }}</TermHint></template>
      </template>
      <template v-if="!first && light.level_stops != null && light.level_sd_stops != null"> · <template v-if="light.level_sd_stops > 0.8">strength cannot be told</template><template v-else-if="light.level_stops > -0.05">as strong as the key (± {{ Math.max(0.05, light.level_sd_stops).toFixed(1) }} stops)</template><template v-else>{{ (-light.level_stops).toFixed(1) }} ± {{ Math.max(0.05, light.level_sd_stops).toFixed(1) }} stops under the key</template></template>
      <template v-if="light.cct_k"> · about {{ light.cct_k }} K as the file is balanced</template>
    </p>
    <p v-for="d in light.disagreement ?? []" :key="d" class="quiet">{{ d }}.</p>
  </article>
</template>

<style scoped>
.light {
  border-left: 4px solid currentColor;
  padding: 0.5rem 0.7rem;
}
.edge-key {
  border-color: var(--key);
}
.edge-fill {
  border-color: var(--fill);
}
.edge-rim {
  border-color: var(--rim);
}
.edge-background {
  border-color: var(--background);
}
.head {
  display: flex;
  align-items: center;
  gap: 0.45rem;
}
h3 {
  margin: 0;
  font-size: 1.02rem;
  font-weight: 600;
}
h3::first-letter {
  text-transform: uppercase;
}
.dir {
  margin-left: auto;
  font-weight: 600;
}
.dir .quiet {
  font-weight: 400;
}
p {
  margin: 0.15rem 0 0;
  font-size: 0.94rem;
}
</style>
