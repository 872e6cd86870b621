import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

const chosen = useLocalStorage<'' | 'day' | 'night'>('lantern-theme', '')
const dark = usePreferredDark()

/** Whether the night theme is on: as chosen, else as the system has it. */
export const isNight = computed(() => (chosen.value ? chosen.value === 'night' : dark.value))

watchEffect(() => {
  document.documentElement.dataset.theme = isNight.value ? 'night' : 'day'
})

export function switchTheme(): void {
  chosen.value = isNight.value ? 'day' : 'night'
}
