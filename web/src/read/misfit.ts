import { ref } from 'vue'

/** Whether dots on a face show where the picture is lighter or darker than the lights found explain. */
export const misfit = ref(false)
