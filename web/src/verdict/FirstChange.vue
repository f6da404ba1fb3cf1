<script setup lang="ts">
// What to change first, with the picture it would give, and what then. Worked out by the studio, as it comes in.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, wholeSet } from '../api/client'
import { useCase } from '../cases/case'
import { messageOf } from '../shell/events'
import { useVerdict } from './verdict'

const v = useVerdict()
const current = useCase()
const router = useRouter()
const first = computed(() => v.mends[0])
const later = computed(() => v.mends.slice(1))
const WORDS = { fault: 'to change', unsure: 'open', holds: 'holds', cannot_tell: 'not told' } as const
const near = (x: number) => (Math.abs(x) < 0.05 ? 0 : x)
const figure = (x: number | null | undefined) => (x == null ? '' : (Math.abs(x) >= 10 ? x.toFixed(0) : near(x).toFixed(1)).replace('-', '−'))
const problem = ref('')
const isReference = computed(() => current.reference?.id === current.frame?.id)

const shows = ref<'relit' | 'after' | 'before'>('relit')
const views = computed(() => [
  ...(v.drawn.relit ? [{ value: 'relit' as const, text: 'Relit' }] : []),
  { value: 'after' as const, text: 'After' },
  { value: 'before' as const, text: 'Before' },
])
const picture = computed(() => (shows.value === 'before' ? v.drawn.before : shows.value === 'relit' && v.drawn.relit ? v.drawn.relit : v.drawn.after))
const alt = computed(() => ({ relit: 'The person of the picture under the changed lights', after: 'What the studio draws after the first change', before: 'What the studio draws of the set as it was read' })[shows.value === 'relit' && !v.drawn.relit ? 'after' : shows.value])

async function takeOver() {
  if (!first.value) return
  try {
    const path = { params: { path: { id: current.id } } }
    const now = await data(api.GET('/api/cases/{id}/set', path))
    await data(api.PUT('/api/cases/{id}/set', { ...path, body: { version: now.version, set: wholeSet(first.value.set) } }))
    await router.push({ name: 'rebuild', params: { caseId: current.id } })
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <section v-if="first || v.working" class="sheet first" aria-label="What to change first" data-test="first-change">
    <h2>Change this first</h2>
    <p v-if="!first" class="quiet" role="status"><BSpinner small /> Trying changes in the studio…</p>
    <template v-else>
      <div class="two">
        <div>
          <p class="says" data-test="first-says">{{ first.says }}</p>
          <p><strong>{{ first.holds }} of {{ first.of }}</strong> rules would hold instead of {{ first.held }}; {{ Math.round(100 * first.gain) }} % of what is wrong goes. Likely to be seen in the next picture: {{ Math.round(100 * Math.min(first.likely, 0.99)) }} %.</p>
          <BButton v-if="isReference" size="sm" variant="secondary" data-test="take-over" @click="takeOver">Take over into the set</BButton>
          <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
        </div>
        <figure v-if="picture" class="drawn">
          <img :src="picture" :alt="alt" data-test="first-picture" />
          <figcaption><BFormRadioGroup v-model="shows" :options="views" buttons size="sm" button-variant="secondary" aria-label="Which picture" /></figcaption>
        </figure>
        <BPlaceholder v-else-if="v.working" class="wait" width="100%" animation="wave" />
      </div>
      <BTableSimple v-if="first.foreseen.length" small class="foreseen">
          <BTbody>
            <BTr v-for="f in first.foreseen" :key="f.rule" @pointerenter="v.here = f.rule" @pointerleave="v.here = null">
              <BTd>{{ f.title }}</BTd>
              <BTd class="num">{{ figure(f.value_before) }} → {{ figure(f.value_after) }}{{ f.spread ? ` ± ${figure(f.spread)}` : '' }} {{ f.unit }}</BTd>
              <BTd :class="`to-${f.after}`">{{ WORDS[f.after] }}</BTd>
            </BTr>
          </BTbody>
        </BTableSimple>
      <p v-if="later.length" class="then">Then:</p>
      <ol v-if="later.length" :start="2" data-test="later-changes">
        <li v-for="m in later" :key="m.says">{{ m.says }} <span class="quiet">({{ m.holds }} of {{ m.of }} hold)</span></li>
      </ol>
      <p class="quiet small">Tried in a stand-in studio on the set that the reading makes likely: a reckoning, not a promise.</p>
    </template>
  </section>
</template>

<style scoped>
.first {
  border-left: 4px solid var(--light);
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 10.5rem;
  gap: 0.8rem;
  align-items: start;
}
p {
  margin: 0.2rem 0;
}
.says {
  font-size: 1.06rem;
  font-weight: 600;
}
.drawn {
  margin: 0;
  text-align: center;
}
.drawn img {
  width: 100%;
  border-radius: 5px;
  display: block;
  margin-bottom: 0.3rem;
}
.wait {
  height: 8rem;
}
.num {
  text-align: right;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.to-holds::before {
  content: '✓ ';
}
.to-fault {
  color: var(--fault);
}
.to-fault::before {
  content: '✗ ';
}
ol {
  margin: 0;
  padding-left: 1.4rem;
}
@media (max-width: 620px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
