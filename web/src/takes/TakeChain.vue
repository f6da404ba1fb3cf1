<script setup lang="ts">
// The chain of takes: what each was changed by, what was foretold and measured, what became of it.
import { computed, ref } from 'vue'
import { pictureUrl, type ChainView, type LinkEdit, type TakeView } from '../api/client'
import TextField from '../shell/TextField.vue'
import { difference } from '../shell/units'

const props = defineProps<{ chain: ChainView; chosen: string | null }>()
const emit = defineEmits<{ choose: [frame: string]; edit: [take: TakeView, edit: Omit<LinkEdit, 'version'>]; goOn: [take: TakeView] }>()
const only = ref('')
const list = computed(() => {
  const words = only.value.toLowerCase().split(/\s+/).filter(Boolean)
  const all = props.chain.takes.filter((t) => words.every((w) => `${t.file_name} ${t.changed.join(' ')} ${t.link.note} ${t.link.tags?.join(' ')}`.toLowerCase().includes(w)))
  return all.some((t) => t.like != null) ? [...all].sort((a, b) => (b.like ?? 0) - (a.like ?? 0)) : all
})
const here = computed(() => props.chain.takes.find((t) => t.frame === props.chosen) ?? null)
const device = ref('key')
const told = ref('')
const devices = computed(() => [...new Set(['key', 'fill', 'rim', 'background', 'room', 'camera', 'subject', ...(here.value?.link.changes ?? []).map((c) => c.device)])])
/** What the sets do not know: told by the person. */
function alsoChanged() {
  const t = here.value
  if (!t || !told.value.trim()) return
  emit('edit', t, { changes: [...(t.link.changes ?? []), { device: device.value, kind: 'other', from: '', to: `${device.value}: ${told.value.trim()}`, amount: 0, unit: '' }] })
  told.value = ''
}
const KEPT = { open: '', kept: 'kept', undone: 'taken back', accepted: 'accepted' } as const
const keptWord = (t: TakeView) => (t.link.kept && KEPT[t.link.kept] ? `, ${KEPT[t.link.kept]}` : '')
const figure = (v: number, unit: string) => `${difference(v, unit)} ${unit}`
</script>

<template>
  <div class="chain">
    <ol class="strip" aria-label="Takes in their chain">
      <li v-for="t in list" :key="t.frame">
        <BButton variant="secondary" :class="{ active: t.frame === chosen, undone: t.link.kept === 'undone' }" :aria-pressed="t.frame === chosen" :data-test="`take-${t.number}`" @click="emit('choose', t.frame)">
          <img :src="pictureUrl(t.frame, 'thumb')" alt="" loading="lazy" />
          <span class="n">{{ t.number }}<span v-if="t.frame === chain.tip" title="the next take follows this one"> ◂ next</span></span>
          <span class="what">{{ t.changed[0] ?? (t.follows ? 'no change' : 'first') }}<template v-if="t.changed.length > 1"> and {{ t.changed.length - 1 }} more</template></span>
          <span class="quiet">{{ t.like != null ? `${Math.round(100 * t.like)} % like` : t.differs == null ? 'not compared' : t.differs ? `${t.differs} differ` : 'as the reference' }}{{ keptWord(t) }}</span>
        </BButton>
      </li>
    </ol>
    <BFormInput v-if="chain.takes.length > 5" v-model="only" size="sm" type="search" placeholder="Words in change, note, tag" aria-label="Find takes by words" />
    <section v-if="here" class="sheet" :aria-label="`Take ${here.number}`" data-test="take-details">
      <h2>Take {{ here.number }}<span v-if="here.follows" class="quiet"> after take {{ here.follows }}</span></h2>
      <p v-if="here.changed.length" class="m-0">Changed: {{ here.changed.join('; ') }}.</p>
      <p v-else-if="here.follows" class="quiet m-0">Nothing was changed in the set since take {{ here.follows }}.</p>
      <p v-if="here.several" class="problem m-0">{{ here.several }}</p>
      <p v-if="here.link.settings" class="quiet small m-0">f/{{ here.link.settings.f_number }}, 1/{{ Math.round(1 / here.link.settings.shutter_s) }} s, ISO {{ here.link.settings.iso }}</p>
      <BTableSimple v-if="here.foretold.length" class="figure foretold" small>
        <thead><tr><th scope="col">Foretold and measured, against the reference</th><th scope="col">foretold</th><th scope="col">measured</th></tr></thead>
        <tbody>
          <tr v-for="f in here.foretold" :key="f.what" :class="{ off: !f.came_true }"><th scope="row">{{ f.what }}</th><td>{{ figure(f.expected, f.unit) }}</td><td>{{ figure(f.measured, f.unit) }}{{ f.came_true ? '' : ' !' }}</td></tr>
        </tbody>
      </BTableSimple>
      <p v-if="here.foretold.some((f) => f.unit === 'stops')" class="quiet small m-0">Levels have the exposure in them here.</p>
      <form class="acts" @submit.prevent="alsoChanged">
        <BFormSelect v-model="device" size="sm" :options="devices" aria-label="What else was changed: device" />
        <BFormInput v-model="told" size="sm" placeholder="what else was changed" aria-label="What else was changed" maxlength="120" data-test="also-changed" />
        <BButton size="sm" variant="secondary" type="submit">Add</BButton>
        <BButton v-if="here.link.changes?.length" size="sm" variant="secondary" @click="emit('edit', here, { changes: here.link.changes.slice(0, -1) })">Remove the last</BButton>
      </form>
      <div class="acts">
        <BButtonGroup size="sm" aria-label="What becomes of it">
          <BButton v-for="[k, word] in [['open', 'open'], ['kept', 'keep'], ['undone', 'take back']] as const" :key="k" variant="secondary" :class="{ active: here.link.kept === k }" :aria-pressed="here.link.kept === k" :disabled="k === 'undone' && !here.follows" :data-test="`kept-${k}`" @click="emit('edit', here, { kept: k })">{{ word }}</BButton>
        </BButtonGroup>
        <BButton size="sm" variant="secondary" data-test="go-on" @click="emit('goOn', here)">Go on from here</BButton>
      </div>
      <label class="wide">Note<TextField :value="here.link.note ?? ''" data-test="take-note" @change="emit('edit', here, { note: $event })" /></label>
      <label class="wide">Tags, with commas<TextField :value="(here.link.tags ?? []).join(', ')" data-test="take-tags" @change="emit('edit', here, { tags: $event.split(',').map((x) => x.trim()).filter(Boolean) })" /></label>
      <ul v-if="here.link.left?.length" class="m-0"><li v-for="l in here.link.left" :key="l.what">{{ l.what }} stays {{ figure(l.difference, l.unit) }} off: {{ l.reason || 'no reason given' }}</li></ul>
    </section>
  </div>
</template>

<style scoped>
.chain {
  display: grid;
  gap: 0.5rem;
  min-width: 0;
}
.strip {
  list-style: none;
  display: flex;
  gap: 0.4rem;
  padding: 0 0 0.3rem;
  margin: 0;
  overflow-x: auto;
}
.strip button {
  display: grid;
  width: 9.5rem;
  text-align: left;
  font-size: 0.82rem;
  line-height: 1.25;
  padding: 0.25rem;
}
.strip img {
  width: 100%;
  height: 4.6rem;
  object-fit: cover;
  border-radius: 3px;
}
.strip .active .quiet {
  color: var(--ground);
}
.undone img {
  opacity: 0.45;
}
.n {
  font-weight: 700;
}
.what,
.strip .quiet {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.sheet {
  display: grid;
  gap: 0.4rem;
  padding: 0.6rem 0.8rem;
}
h2 {
  font-size: 1.05rem;
  margin: 0;
}
.foretold {
  width: 100%;
  font-size: 0.9rem;
}
.foretold td,
.foretold th + th {
  text-align: right;
  padding-left: 0.6rem;
}
.foretold tbody th {
  font-weight: 400;
}
.foretold tbody tr {
  border-bottom: 1px solid var(--raised);
}
.off td {
  font-weight: 700;
}
.acts select {
  width: 8rem;
}
.acts input {
  flex: 1;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
}
</style>
