<script setup lang="ts">
// One finding with its measurement, one change, where to work it out, and whether people think it right.
import { computed } from 'vue'
import type { Finding } from '../api/client'
import { messageOf } from '../shell/events'
import { useVerdict } from './verdict'

const props = defineProps<{ finding: Finding & { n: number } }>()
const v = useVerdict()
const mine = computed(() => v.stance(props.finding.rule)?.stance)
const others = computed(() => v.remarks.filter((r) => !r.mine && r.rule === props.finding.rule && r.stance !== 'note'))
const notes = computed(() => v.remarks.filter((r) => r.rule === props.finding.rule && r.stance === 'note'))
async function judge(as: 'agrees' | 'disagrees') {
  try {
    await v.judge(props.finding.rule, as)
  } catch (e) {
    v.problem = messageOf(e)
  }
}
</script>

<template>
  <article class="sheet finding" :class="[finding.outcome, { here: v.here === finding.rule }]" data-test="finding" :data-outcome="finding.outcome" @pointerenter="v.here = finding.rule" @pointerleave="v.here = null">
    <h3><span class="n">{{ finding.n }}</span>{{ finding.title }}</h3>
    <p>{{ finding.says }}</p>
    <p v-if="finding.change"><strong>One change:</strong> {{ finding.change }}</p>
    <p v-if="finding.settles"><strong>To decide:</strong> {{ finding.settles }}</p>
    <p class="quiet small">
      {{ finding.school }} Rule: {{ finding.source }}. Says so: {{ finding.evidence.join(', ') }}.
      <RouterLink v-if="finding.bench" :to="{ name: 'bench', query: { sum: finding.bench } }" data-test="bench-link">Work it out on the bench</RouterLink>
    </p>
    <p v-for="o in others" :key="o.id" class="small" dir="auto"><bdi>{{ o.author }}</bdi> {{ o.stance === 'agrees' ? 'agrees' : 'disagrees' }}<template v-if="o.text">: <bdi>{{ o.text }}</bdi></template></p>
    <p v-for="o in notes" :key="o.id" class="small" dir="auto"><bdi>{{ o.author }}</bdi>: <bdi>{{ o.text }}</bdi></p>
    <BButtonGroup size="sm" class="stance" :aria-label="`Is this right: ${finding.title}`">
      <BButton variant="secondary" :pressed="mine === 'agrees'" data-test="agree" @click="judge('agrees')">Agree</BButton>
      <BButton variant="secondary" :pressed="mine === 'disagrees'" data-test="disagree" @click="judge('disagrees')">Disagree</BButton>
    </BButtonGroup>
  </article>
</template>

<style scoped>
.finding {
  border-left: 4px solid var(--tick);
  position: relative;
}
.finding.fault {
  border-color: var(--fault);
}
.finding.unsure {
  border-left-style: dashed;
}
.finding.here {
  background: var(--raised);
}
h3 {
  font-size: 1.02rem;
  font-weight: 600;
  margin: 0;
  display: flex;
  gap: 0.5rem;
}
.n {
  flex: none;
  width: 1.4rem;
  height: 1.4rem;
  line-height: 1.4rem;
  text-align: center;
  border-radius: 50%;
  background: var(--bar);
  font-size: 0.85rem;
}
p {
  margin: 0.25rem 0 0;
}
.stance {
  margin-top: 0.35rem;
}
</style>
