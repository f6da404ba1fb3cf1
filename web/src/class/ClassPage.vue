<script setup lang="ts">
// One class: assignments, who is in it, the gradebook, what was done.
import { computed, onMounted, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, data, type AssignmentCard, type AuditLine, type ClassView, type Gradebook, type Seat } from '../api/client'
import { useSession } from '../entry/session'
import { messageOf } from '../shell/events'
import { school } from '../shell/school'
import RoundsPanel from '../live/RoundsPanel.vue'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import AssignmentEditor from './AssignmentEditor.vue'
import BookTable from './BookTable.vue'
import GroupsPanel from './GroupsPanel.vue'
import HouseRulesPanel from './HouseRulesPanel.vue'
import { percent } from './wall'

const props = defineProps<{ classId: string }>()
const session = useSession()
const router = useRouter()
const view = ref<ClassView | null>(null)
const assignments = ref<AssignmentCard[]>([])
const book = ref<Gradebook | null>(null)
const done = ref<AuditLine[] | null>(null)
const problem = ref('')
const route = useRoute()
const word = (v: unknown) => (typeof v === 'string' ? v : '')
/** A picture that was sent here to be set as an assignment. */
const start = computed(() => (word(route.query.frame) ? { frame: word(route.query.frame), title: word(route.query.title), brief: word(route.query.brief) || 'everyday' } : undefined))
const editing = ref(start.value !== undefined)
async function edited() {
  editing.value = false
  if (start.value) await router.replace({ query: {} })
}
const path = computed(() => ({ params: { path: { id: props.classId } } }))
const teaches = computed(() => view.value?.seat === 'instructor' || view.value?.seat === 'co_teacher')
const leads = computed(() => view.value?.seat === 'instructor')
const date = (t: string | null | undefined) => (t ? new Date(t).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' }) : 'no date')
const SEATS: { value: Seat; text: string }[] = [
  { value: 'student', text: 'student' },
  { value: 'co_teacher', text: 'co-teacher' },
  { value: 'guest', text: 'guest' },
  { value: 'instructor', text: 'instructor' },
]

async function load() {
  try {
    const [v, a, b] = await Promise.all([
      data(api.GET('/api/classes/{id}', path.value)),
      data(api.GET('/api/classes/{id}/assignments', path.value)),
      data(api.GET('/api/classes/{id}/gradebook', path.value)),
    ])
    view.value = v
    assignments.value = a
    book.value = b
    if (v.house.ratio) school.value = v.house.ratio
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(load)
async function act(what: () => Promise<unknown>) {
  try {
    await what()
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
  await load()
}
type Edit = { keep_days?: number; keep_grades?: boolean; open?: boolean; most?: number; archived?: boolean; turn_code?: boolean; drop_lowest?: number; consent?: string }
const change = (e: Edit) => act(() => data(api.PATCH('/api/classes/{id}', { ...path.value, body: { version: view.value?.version ?? 0, ...e } })))
const member = (account: string) => ({ params: { path: { id: props.classId, account } } })
const reseat = (account: string, seat: Seat) => act(() => data(api.PUT('/api/classes/{id}/members/{account}', { ...member(account), body: { seat } })))
const takeOut = (account: string, name: string) => {
  if (window.confirm(`Take ${name} out of the class? What was handed in stays.`)) void act(() => api.DELETE('/api/classes/{id}/members/{account}', member(account)))
}
async function leave() {
  if (!session.person || !window.confirm('Leave this class? What you handed in stays with it.')) return
  await act(() => api.DELETE('/api/classes/{id}/members/{account}', member(session.person?.id ?? '')))
  await router.push({ name: 'classes' })
}
async function audit() {
  try {
    done.value = await data(api.GET('/api/classes/{id}/audit', path.value))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const link = computed(() => `${location.origin}/classes?code=${view.value?.code ?? ''}`)
</script>

<template>
  <main class="page">
    <p v-if="problem" role="alert" class="problem" data-test="class-problem">{{ problem }}</p>
    <template v-if="view">
      <div class="top">
        <h1>{{ view.name }}</h1>
        <span v-if="view.archived" class="quiet">laid aside: nothing is handed in any more</span>
        <BButton v-if="teaches" size="sm" variant="primary" data-test="new-assignment" @click="editing = true">Set an assignment</BButton>
        <BButton v-if="!leads" size="sm" variant="secondary" data-test="leave-class" @click="leave">Leave the class</BButton>
      </div>
      <p v-if="view.consent" class="caution">{{ view.consent }}</p>
      <BTabs no-fade>
        <BTab id="assignments" title="Assignments">
          <p v-if="!assignments.length" class="quiet">Nothing is set yet.</p>
          <ul class="list">
            <li v-for="a in assignments" :key="a.id" class="sheet" data-test="assignment-card">
              <RouterLink :to="{ name: 'assignment', params: { assignmentId: a.id } }"><strong>{{ a.title }}</strong></RouterLink>
              <span class="quiet">by {{ date(a.due) }} · as {{ a.brief }}<template v-if="!a.published"> · not shown to students</template></span>
              <span v-if="teaches">{{ a.handed_in }} handed in, {{ a.returned }} given back</span>
              <span v-else>{{ a.mine ? 'handed in' : 'not handed in' }}</span>
            </li>
          </ul>
        </BTab>
        <BTab id="people" :title="teaches ? `People (${view.members.length})` : 'People'">
          <section v-if="teaches" class="sheet code">
            <p class="m-0">Code to join: <strong class="figure big" data-test="class-code">{{ view.code }}</strong> <span class="quiet">{{ view.open ? `open, ${view.members.length} of ${view.most}` : 'closed' }}</span></p>
            <p class="quiet small m-0">{{ link }}</p>
            <div v-if="leads" class="acts">
              <BButton size="sm" variant="secondary" data-test="toggle-code" @click="change({ open: !view.open })">{{ view.open ? 'Close it' : 'Open it' }}</BButton>
              <BButton size="sm" variant="secondary" data-test="turn-code" @click="change({ turn_code: true })">New code</BButton>
              <BFormCheckbox :model-value="view.keep_grades" data-test="keep-grades" @update:model-value="(v) => change({ keep_grades: v === true })">Points stay when a picture is taken away</BFormCheckbox>
              <NumberField label="Days pictures are kept once it is laid aside (0: no end)" :value="view.keep_days ?? 0" :least="0" :most="3650" data-test="keep-days" @change="(v) => change({ keep_days: Math.round(v ?? 0) })" />
              <NumberField label="Lowest marks that do not count" :value="view.drop_lowest" :least="0" :most="20" @change="(v) => change({ drop_lowest: Math.round(v ?? 0) })" />
              <BButton size="sm" variant="secondary" @click="change({ archived: !view.archived })">{{ view.archived ? 'Take the class up again' : 'Lay the class aside' }}</BButton>
            </div>
          </section>
          <BTableSimple small>
            <BTbody>
              <BTr v-for="m in view.members" :key="m.id" data-test="member">
                <BTd><bdi>{{ m.name }}</bdi></BTd>
                <BTd><PickOne v-if="leads" class="w-auto" :value="m.seat" :options="SEATS" :aria-label="`Seat of ${m.name}`" @pick="(s) => reseat(m.id, s)" /><template v-else>{{ m.seat.replace('_', '-') }}</template></BTd>
                <BTd class="text-end"><BButton v-if="leads && m.id !== session.person?.id" size="sm" variant="secondary" :aria-label="`Take ${m.name} out`" @click="takeOut(m.id, m.name)">Take out</BButton></BTd>
              </BTr>
            </BTbody>
          </BTableSimple>
        </BTab>
        <BTab id="book" title="Gradebook">
          <template v-if="book">
            <ul v-if="teaches" class="trends">
              <template v-for="a in book.assignments" :key="a.id"><li v-for="t in a.trends" :key="t.says" data-test="trend"><strong>{{ a.title }}:</strong> {{ t.says }} <span class="quiet">To practise: {{ t.practise }}</span></li></template>
            </ul>
            <BTableSimple small responsive class="figure" data-test="gradebook">
              <BThead><BTr><BTh>Student</BTh><BTh v-for="a in book.assignments" :key="a.id" class="text-end">{{ a.title }}<br /><span class="quiet small">weight {{ a.weight }}</span></BTh><BTh class="text-end">Total</BTh></BTr></BThead>
              <BTbody>
                <BTr v-for="r in book.rows" :key="r.student" data-test="book-row">
                  <BTd><RouterLink :to="{ name: 'student', params: { classId, account: r.student } }" data-test="to-student"><bdi>{{ r.name }}</bdi></RouterLink></BTd>
                  <BTd v-for="(c, i) in r.cells" :key="i" class="text-end">{{ percent(c.share) || (c.handed_in ? 'handed in' : '–') }}<span v-if="c.entered" class="quiet"> by hand</span><span v-if="c.late" class="late"> late</span><br /><span v-if="c.steps != null" class="quiet small">{{ c.steps.toFixed(1) }} steps</span></BTd>
                  <BTd class="text-end"><strong>{{ percent(r.total) }}</strong></BTd>
                </BTr>
              </BTbody>
            </BTableSimple>
            <BookTable v-if="teaches" :class-id="classId" :titles="book.assignments.map((a) => a.title)" @changed="load" />
          </template>
        </BTab>
        <BTab id="house" title="House rules" lazy><HouseRulesPanel :of="view" @changed="load" /></BTab>
        <BTab v-if="teaches" id="groups" title="Groups" lazy><GroupsPanel :of="view" /></BTab>
        <BTab v-if="teaches" id="live" title="Live rounds" lazy><RoundsPanel :class-id="classId" /></BTab>
        <BTab v-if="teaches" id="done" title="What was done" lazy @update:active="(on) => on && audit()">
          <ul class="trends"><li v-for="(d, i) in done ?? []" :key="i" data-test="audit-line">{{ date(d.at) }}: <bdi>{{ d.actor }}</bdi> {{ d.did }}</li></ul>
        </BTab>
      </BTabs>
      <AssignmentEditor v-if="editing" :class-id="classId" :start="start" @close="edited" @saved="load" />
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 0.9rem 1rem;
  max-width: 68rem;
  width: 100%;
  margin: 0 auto;
  display: grid;
  gap: 0.7rem;
  align-content: start;
}
.top,
.acts {
  display: flex;
  gap: 0.8rem;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  margin: 0;
  flex: 1;
}
.list,
.trends {
  list-style: none;
  padding: 0;
  margin: 0.6rem 0;
  display: grid;
  gap: 0.5rem;
}
.list li {
  display: flex;
  gap: 1rem;
  flex-wrap: wrap;
  align-items: baseline;
}
.code {
  display: grid;
  gap: 0.4rem;
  margin: 0.6rem 0;
}
.big {
  font-size: 1.4rem;
  letter-spacing: 0.12em;
}
.late {
  color: var(--fault);
}
</style>
