/** Night or paper, and whether secrets are covered. Kept in this browser only. */
import { useLocalStorage } from '@vueuse/core'
import { ref, watch } from 'vue'

export const theme = useLocalStorage<'night' | 'paper'>('theme', 'night')
export const covered = ref(true)

watch(
  theme,
  (name) => {
    document.documentElement.dataset.theme = name === 'paper' ? 'paper' : 'night'
    document.documentElement.classList.toggle('dark', name !== 'paper')
  },
  { immediate: true },
)
