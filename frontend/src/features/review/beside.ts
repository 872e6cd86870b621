import { ref } from 'vue'

/** Whether pictures from before are shown beside those of a run: kept while one walks through it. */
export const besides = ref(false)
