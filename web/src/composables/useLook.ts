/** Night or paper, and whether secrets are covered. Kept in this browser only. */
import { ref, watch } from 'vue'

export const theme = ref<'night' | 'paper'>(localStorage.getItem('theme') === 'paper' ? 'paper' : 'night')
export const covered = ref(true)

watch(
  theme,
  (name) => {
    document.documentElement.dataset.theme = name
    document.documentElement.classList.toggle('dark', name === 'night')
    localStorage.setItem('theme', name)
  },
  { immediate: true },
)
