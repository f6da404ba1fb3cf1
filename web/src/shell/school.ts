// How a person states a ratio: the chosen school is shown first everywhere.
import { ref, watch } from 'vue'

export type School = 'each' | 'together'
/** Key against fill, each measured alone; or both together against the fill alone. */
export const SCHOOLS: Record<School, string> = { each: 'key : fill, each alone', together: '(key + fill) : fill' }
export const school = ref<School>(localStorage.getItem('school') === 'together' ? 'together' : 'each')
watch(school, (s) => localStorage.setItem('school', s))
