import { computed, shallowRef } from 'vue'

/** Something to be decided before it goes on; `yes` and `no` are what the buttons say. */
export interface Question {
  title: string
  text: string
  yes: string
  no: string
}
interface Asked extends Question {
  settle: (yes: boolean) => void
}

const waiting = shallowRef<Asked[]>([])

/** The question that is to be answered now. */
export const question = computed(() => waiting.value[0])

/** Ask a person; resolves with true for yes. What is asked first is answered first. */
export function asked(what: Question): Promise<boolean> {
  return new Promise((resolve) => {
    const settle = (yes: boolean) => {
      waiting.value = waiting.value.slice(1)
      resolve(yes)
    }
    waiting.value = [...waiting.value, { ...what, settle }]
  })
}
